import { accuracyText, ageText, lengthText, positionText } from 'aurelian-drift';
import { useAge, useFollow, useLive, useMap, useReceiver, useRecorder } from 'aurelian-drift/react';
import { browserStore } from 'aurelian-drift/stores';
import { useEffect, useState } from 'react';
import { look, tapsOn, where } from '../shared/source.js';

const store = browserStore();

export function Stroll() {
  const [on, setOn] = useState(false);
  const receiver = useReceiver(() => ({ ...where(), purpose: 'Show your stroll on the map.' }));
  const follow = useFollow(receiver, on ? { every: 1 } : undefined);
  const { recorder } = useRecorder({ store, name: 'Stroll in React' }, follow);
  const fix = useLive(receiver?.$fix);
  const age = useAge(receiver?.$fix);
  const status = useLive(receiver?.$status);
  const summary = useLive(recorder?.$summary);
  const [map, sheet] = useMap({ receiver, label: 'Your stroll', ...look() });
  useEffect(() => tapsOn(sheet), [sheet]);

  return (
    <>
      <h1>Stroll</h1>
      <button onClick={() => setOn(!on)}>{on ? 'Stop' : 'Start'}</button>
      {status?.state === 'failed' && (
        <p role="alert">{`${status.error.userText} ${status.error.remedy.text}`}</p>
      )}
      <dl>
        <dt>Position</dt>
        <dd id="position">{`${positionText(fix)} ${accuracyText(fix?.accuracy)}`}</dd>
        <dt>Age</dt>
        <dd>{ageText(age)}</dd>
        <dt>Walked</dt>
        <dd id="walked">{lengthText(summary?.distance)}</dd>
      </dl>
      <div className="map" ref={map} />
    </>
  );
}
