import { NO_FIX_KINDS, fixFrom, Receiver, Trail, oneFix, type NoFixError } from 'aurelian-drift';
import { SERVICE_ERROR_KINDS, ServiceError, PlaceLookUp } from 'aurelian-drift/places';
import { termsText, type SharingTerms } from 'aurelian-drift/presence';
import { reportPage } from 'aurelian-drift/report';
import { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { ENGLISH, loadTexts, textsFrom, type Texts } from 'aurelian-drift/texts';
import { expect } from 'chai';

const OWN: Texts = textsFrom({
  language: 'nl',
  failures: { refused: { happened: 'Niet toegestaan.', help: 'Druk nog eens.' } },
  serviceFailures: { failing: 'De dienst heeft een probleem.' },
  sharing: { recipients: 'Gezien door {recipients}.', trail: 'Uw weg van de laatste {duration}.' },
  report: {
    ...ENGLISH.report,
    figures: { ...ENGLISH.report.figures, distance: 'Afstand & weg' },
    gapRemark: { one: '{count} gat', other: '{count} gaten' },
  },
});

const failureOf = <Failure extends Error = NoFixError>(call: Promise<unknown>): Promise<Failure> =>
  call.then(
    () => expect.fail('it succeeded'),
    (error: unknown) => error as Failure,
  );

describe('the texts that users read', () => {
  it('are loaded by language, and are English where there is no table', async () => {
    expect((await loadTexts(['pt-BR', 'de-AT', 'fr']))?.language).to.equal('de');
    expect((await loadTexts('fr'))?.consent?.goOn).to.equal('Continuer');
    for (const languages of ['en-GB', 'xx', ['en', 'de'], []])
      expect(await loadTexts(languages)).to.equal(undefined);
    expect(await loadTexts()).to.equal(undefined); // no page
  });

  it('have a sentence and a help for every kind of failure, in each language', async () => {
    const tables = [ENGLISH, ...(await Promise.all(['de', 'fr', 'es'].map((tag) => loadTexts(tag))))];
    for (const table of tables)
      for (const kind of NO_FIX_KINDS) {
        const { happened, help } = table!.failures![kind]!;
        expect(happened, `${table!.language} ${kind}`).to.match(/\p{Ll}{3}.*[.!]$/u);
        expect(help, `${table!.language} ${kind}`).to.match(/\p{Ll}{3}.*[.!]$/u);
      }
    expect(Object.keys(ENGLISH.serviceFailures)).to.have.members([...SERVICE_ERROR_KINDS]);
  });

  it('are complete in each language, with the same values in the same texts', async () => {
    /** Paths of all texts, each with the names that are filled in, sorted. */
    const textsOf = (value: unknown, path = ''): string[] =>
      typeof value === 'string'
        ? [`${path} ${(value.match(/\{\w+\}/g) ?? []).sort().join()}`]
        : Object.entries(value as object).flatMap(([name, each]) => textsOf(each, `${path}/${name}`));
    const expected = textsOf({ ...ENGLISH, language: '' });
    for (const tag of ['de', 'fr', 'es']) {
      const table = await loadTexts(tag);
      expect(textsOf({ ...table, language: '' }), tag).to.have.members(expected);
    }
  });

  it('speak of the settings of the app inside one, in each language, and never of a page', async () => {
    const clock = new VirtualClock();
    const inApp = Object.assign(
      new SimulatedDevice({ clock, at: { lat: 44.2, lon: -33.6 }, permission: 'barred' }),
      { inApp: true },
    );
    for (const tag of ['en', 'de', 'fr', 'es']) {
      const texts = await loadTexts(tag);
      const receiver = new Receiver({ source: inApp, purpose: 'Test.', clock, texts });
      const { userText, remedy } = await clock.settle(failureOf(receiver.fix()));
      const app = { en: 'This app', de: 'Diese App', fr: 'Cette application', es: 'Esta aplicación' }[tag]!;
      expect(userText).to.match(new RegExp(`^${app}`));
      expect(remedy.text).not.to.match(/page|site|Seite|página|address|Adress|dirección/i);
      expect(receiver.$access.get().remedy!.text).to.equal(remedy.text);
    }
  });

  it('are in the failures and remedies of a receiver and of one fix; the developer’s message stays', async () => {
    const clock = new VirtualClock();
    const at = { lat: 44.2, lon: -33.6 };
    const device = () => new SimulatedDevice({ clock, at, answer: 'refuse', warmUp: 0 });
    const receiver = new Receiver({ source: device(), purpose: 'Test.', clock, texts: OWN });
    const german = await loadTexts('de');
    const once = oneFix({ source: device(), clock, texts: german });
    const [own, other] = await clock.settle(Promise.all([failureOf(receiver.fix()), failureOf(once)]));
    expect([own.userText, own.remedy.text]).to.deep.equal(['Niet toegestaan.', 'Druk nog eens.']);
    expect(own.message).to.match(/^refused: the prompt was/);
    expect(receiver.$access.get().remedy?.text).to.equal('Druk nog eens.');
    expect(other.userText).to.equal('Sie haben dieser Seite Ihren Standort nicht mitgeteilt.');
    const english = new Receiver({ source: device(), purpose: 'Test.', clock });
    expect((await clock.settle(failureOf(english.fix()))).userText).to.equal(
      ENGLISH.failures.refused!.happened,
    );
  });

  it('are in failed look-ups', async () => {
    const provider = {
      near: () => Promise.reject(new ServiceError('failing', { note: '500', retryAfter: 3 })),
    };
    const places = new PlaceLookUp({ provider, retries: 0, texts: OWN });
    const error = await failureOf<ServiceError>(places.near({ lat: 0, lon: 0 }));
    expect([error.userText, error.retryAfter]).to.deep.equal(['De dienst heeft een probleem.', 3]);
    expect(error.message).to.include('(500)');
  });

  it(
    'are in the terms of sharing, with omitted ones in English and quantities as the ' +
      'language writes them',
    () => {
      const terms: SharingTerms = {
        recipients: ['Ines', 'Odile'],
        veiled: false,
        trail: 5400,
        protection: 'only-expiry',
        vanishedAfter: 50,
        retention: 3600,
      };
      const lines = termsText(terms, 0, OWN);
      expect(lines[0]).to.equal('Gezien door Ines en Odile.');
      expect(lines[1]).to.equal('They see the exact place.');
      expect(lines[2]).to.match(/^Uw weg van de laatste 1\s?.+30\s?.+\.$/);
      expect(termsText(terms, 0)[0]).to.equal('Seen by Ines and Odile.');
    },
  );

  it('are in a report, as text and never as markup, in the language that the page states', () => {
    const fixes = [0, 1, 2, 900].map((s) => ({
      time: 1_778_745_600_000 + s * 1000,
      lat: 44.2 + s * 1e-5,
      lon: -33.6,
      accuracy: 5,
    }));
    const trail = Trail.from(fixes);
    trail.breakSegment();
    trail.append(fixFrom({ ...fixes[3]!, time: fixes[3]!.time + 60_000 }));
    const page = reportPage({ trails: [trail] }, { texts: OWN });
    expect(page)
      .to.include('<html lang="nl">')
      .and.include('<dt>Afstand &amp; weg</dt>')
      .and.include('<p>1 gat</p>');
    expect(page).to.match(/\d,\d/); // a decimal comma
    expect(reportPage({ trails: [Trail.from(fixes)] })).to.include('<html lang="en">');
  });

  const wrong: readonly [unknown, string][] = [
    [{ language: 'nl', consnt: {} }, 'there is no text "consnt", did you mean "consent"'],
    [{ language: 'nl', map: { folow: 'x' } }, 'map: there is no text "folow", did you mean "follow"'],
    [{ language: 'nl', map: { follow: 3 } }, 'map.follow: must be a text, got 3'],
    [{ language: 'nl', failures: { refused: 'Nee.' } }, 'failures.refused: must be an object of texts'],
    [
      { language: 'nl', report: { definitions: [['a']] } },
      'report.definitions.0: must be a list of 2 texts, got 1',
    ],
    [{ language: 'not a tag' }, 'language must be a BCP 47 tag'],
    [null, 'must be an object'],
  ];
  for (const [data, message] of wrong)
    it(`of the app’s own are refused with their place: ${message}`, () => {
      expect(() => textsFrom(data)).to.throw(message);
    });
});
