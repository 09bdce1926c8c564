import { Receiver, Recorder, accuracyText, ageOf, ageText, lengthText, positionText } from 'aurelian-drift';
import { MapSheet } from 'aurelian-drift/map';
import { putGround } from 'aurelian-drift/page';
import { browserStore } from 'aurelian-drift/stores';
import { look, tapsOn, where } from '../shared/source.js';

const app = document.getElementById('app') as HTMLElement;
app.innerHTML = `<h1>Stroll</h1><button>Start</button><p role="alert" hidden></p>
  <dl><dt>Position</dt><dd id="position">–</dd><dt>Age</dt><dd id="age">–</dd><dt>Walked</dt><dd id="walked"></dd></dl>
  <div class="map"></div>`;
const part = (selector: string) => app.querySelector(selector) as HTMLElement;

const receiver = new Receiver({ ...where(), purpose: 'Show your stroll on the map.' });
const map = new MapSheet({ container: part('.map'), receiver, label: 'Your stroll', theme: look().theme });
putGround(map, look().ground, look().credit);
tapsOn(map);
const recorder = await Recorder.resumeOrBegin({ store: browserStore(), name: 'Stroll, plain' });

receiver.$fix.subscribe((fix) => {
  part('#position').textContent = `${positionText(fix)} ${accuracyText(fix?.accuracy)}`;
});
ageOf(receiver.$fix).subscribe((age) => (part('#age').textContent = ageText(age)));
recorder.$summary.subscribe(({ distance }) => (part('#walked').textContent = lengthText(distance)));
receiver.$status.subscribe((status) => {
  part('[role=alert]').hidden = status.state !== 'failed';
  if (status.state === 'failed')
    part('[role=alert]').textContent = `${status.error.userText} ${status.error.remedy.text}`;
});

part('button').onclick = () => {
  if (receiver.follows.length > 0) {
    for (const follow of receiver.follows) follow.stop();
    recorder.pause();
  } else if (!recorder.resume(receiver.follow({ every: 1 }))) {
    recorder.start(receiver.follows[0]);
  }
  part('button').textContent = receiver.follows.length > 0 ? 'Stop' : 'Start';
};
