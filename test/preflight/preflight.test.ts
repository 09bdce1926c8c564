import { preflight, type Finding, type ProjectFile } from 'aurelian-drift-node';
import { expect } from 'chai';
import fc from 'fast-check';
import { mkdir, readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { aurelian, workFolder } from '../support/aurelian.js';

const projects = fileURLToPath(new URL('projects/', import.meta.url));
const code: ProjectFile = {
  path: 'app.js',
  text: "import { Receiver } from 'aurelian-drift';\nexport const at = (receiver) => receiver.fix({ accuracy: 20 });\n",
};
const far: ProjectFile = { path: 'app.js', text: code.text.replace('20', '2000') };
const behind: ProjectFile = {
  path: 'app.js',
  text: "import { Receiver } from 'aurelian-drift';\nreceiver.follow({ accuracy: 900, background: true });\n",
};

const plist = (entries: string): ProjectFile => ({
  path: 'Info.plist',
  text: `<?xml version="1.0"?>\n<plist version="1.0">\n<dict>\n${entries}\n</dict>\n</plist>\n`,
});
const purpose =
  '<key>NSLocationWhenInUseUsageDescription</key>\n<string>Shows you on the map of your round.</string>';
const manifest = (...names: string[]): ProjectFile => ({
  path: 'AndroidManifest.xml',
  text:
    '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n' +
    `${names.map((name) => `<uses-permission android:name="android.permission.${name}" />`).join('\n')}\n</manifest>`,
});
const rules = (...files: ProjectFile[]) => preflight(files, '0.1.0').findings.map(({ rule }) => rule);
const first = (...files: ProjectFile[]): Finding => preflight(files, '0.1.0').findings[0]!;

describe('preflight', () => {
  const folder = workFolder();
  /** The findings of the command in a sample project: rule and position, errors first. */
  const report = async (name: string) => {
    const { code: exit, out } = await aurelian(projects, ['preflight', name, '--json']);
    const { findings } = JSON.parse(out) as { findings: Finding[] };
    return {
      exit,
      findings,
      short: findings.map(({ rule, file, line }) => `${rule} ${file}${line === undefined ? '' : `:${line}`}`),
    };
  };

  it(
    'finds nothing in a correct project, and lists the texts that users will see, per ' +
      'level and language',
    async () => {
      const { code: exit, out } = await aurelian(projects, ['preflight', 'right']);
      expect(exit).to.equal(0);
      expect(out).to.include('Nothing stands in the way.');
      expect(out).to.include('“Shows you on the map of your round and keeps your trail.”');
      expect(out).to.include('background, de (ios/de.lproj/InfoPlist.strings): “Zeichnet den Weg weiter auf');
    },
  );

  it('finds entries that a system would silently ignore: misspelt, wrongly typed, misplaced', async () => {
    const { exit, short, findings } = await report('silent');
    expect(exit).to.equal(1);
    expect(short).to.have.members([
      'misspelt android/AndroidManifest.xml:2',
      'misspelt android/AndroidManifest.xml:3',
      'malformed android/AndroidManifest.xml:4',
      'misplaced android/AndroidManifest.xml:6',
      'misspelt ios/Info.plist:4',
      'wrong-type ios/Info.plist:6',
      'background-half ios/Info.plist:6',
      'misplaced ios/Info.plist:12',
      'not-needed android/AndroidManifest.xml:2',
    ]);
    const letterCase = findings.find(({ line, file }) => line === 4 && file.endsWith('.plist'))!;
    expect(letterCase.remedy).to.equal('Write NSLocationWhenInUseUsageDescription.');
  });

  it(
    'finds a background that is half declared, texts that are the same or missing in a language, ' +
      'precision that is not declared',
    async () => {
      const { exit, short } = await report('half');
      expect(exit).to.equal(1);
      expect(short).to.have.members([
        'background-half android/AndroidManifest.xml',
        'background-half android/AndroidManifest.xml',
        'background-half android/AndroidManifest.xml',
        'precise-alone android/AndroidManifest.xml:2',
        'background-half ios/Info.plist',
        'approximate-only ios/Info.plist:8',
        'vague-purpose ios/fr.lproj/InfoPlist.strings:1',
        'duplicate-purpose ios/Info.plist:6',
        'untranslated ios/Info.plist:6',
      ]);
    },
  );

  it(
    'finds malformed files, insecure origins, frames without leave, barring headers, a pasted key, ' +
      'versions that differ',
    async () => {
      const { exit, short } = await report('careless');
      expect(exit).to.equal(1);
      expect(short).to.have.members([
        'malformed AndroidManifest.xml:3',
        'background-half Info.plist:6',
        'insecure-origin src/app.js:5',
        'versions-differ web/index.html:6',
        'insecure-origin web/index.html:7',
        'misspelt web/index.html:10',
        'barred-by-policy web/server.conf:3',
        'malformed web/server.conf:6',
        'template-purpose Info.plist:4',
        'key-in-code src/app.js:3',
        'vague-purpose src/app.js:6',
        'misplaced web/index.html:5',
        'frame-without-leave web/index.html:11',
        'obsolete web/server.conf:7',
      ]);
    },
  );

  it('writes a page with the texts that users will see; the texts stay text', async () => {
    const out = `${folder.path}/asked.html`;
    expect((await aurelian(projects, ['preflight', 'right', '--preview', out])).code).to.equal(0);
    const page = await readFile(out, 'utf8');
    expect(page).to.include('Zeigt Sie auf der Karte');
    expect(page.match(/<article>/g)).to.have.length(7);
    expect(page).not.to.match(/https?:\/\//);
  });

  it('reports an empty project, and a file or a wrong suffix as misuse', async () => {
    await mkdir(`${folder.path}/empty`);
    expect((await aurelian(folder.path, ['preflight', 'empty'])).out).to.include(
      'nothing here that preflight looks at',
    );
    expect((await aurelian(projects, ['preflight', 'right/package.json'])).code).to.equal(2);
    expect((await aurelian(projects, ['preflight', 'right', '--preview', 'x.png'])).err).to.include(
      'a preview is a page',
    );
    expect((await aurelian(projects, ['preflight', 'nowhere'])).err).to.include('there is no such file');
  });

  it('lists every missing entry in one go, each with the text to paste', () => {
    const { findings } = preflight([code, plist(''), manifest()], '0.1.0');
    expect(findings.map(({ rule, file }) => `${rule} ${file}`)).to.deep.equal([
      'missing AndroidManifest.xml',
      'missing Info.plist',
    ]);
    expect(findings[0]!.remedy).to.include(
      '<uses-permission android:name="android.permission.ACCESS_COARSE_LOCATION" />',
    );
    expect(findings[1]!.remedy).to.include('<key>NSLocationWhenInUseUsageDescription</key><string>');
  });

  it('tells a purpose text that gives a reason from one that does not', () => {
    const of = (text: string) =>
      rules(code, plist(purpose.replace('Shows you on the map of your round.', text)));
    for (const good of [
      'Shows you on the map of your round.',
      '$(PRODUCT_NAME) shows the huts that are near you.',
      'Damit die Hütte weiß, dass Sie sicher sind.',
      'We use your location to show the huts near you.',
    ]) {
      expect(of(good), good).to.deep.equal([]);
    }
    for (const vague of [
      'Location',
      'This app needs your location.',
      'We need access to your location',
      'Your position, please allow location access'.slice(0, 13),
    ]) {
      expect(of(vague), vague).to.deep.equal(['vague-purpose']);
    }
    for (const template of [
      'TODO',
      'Lorem ipsum dolor sit amet',
      '{{reason}} goes here now',
      'Say &lt;why&gt; in here please',
    ]) {
      expect(of(template), template).to.deep.equal(['template-purpose']);
    }
    expect(of('   ')).to.deep.equal(['empty-purpose']);
  });

  it('reports levels declared but not needed, and needed but not declared', () => {
    expect(rules(code, manifest('ACCESS_COARSE_LOCATION'))).to.deep.equal(['approximate-only']);
    expect(rules(code, manifest('ACCESS_COARSE_LOCATION', 'ACCESS_FINE_LOCATION'))).to.deep.equal([]);
    expect(rules(far, manifest('ACCESS_COARSE_LOCATION', 'ACCESS_FINE_LOCATION'))).to.deep.equal([
      'not-needed',
    ]);
    const both =
      `${purpose}<key>NSLocationAlwaysAndWhenInUseUsageDescription</key><string>Goes on in your ` +
      `pocket.</string>`;
    const mode = '<key>UIBackgroundModes</key><array><string>audio</string><string>location</string></array>';
    expect(rules(far, plist(both + mode))).to.deep.equal(['not-needed']);
    expect(rules(behind, plist(both + mode))).to.deep.equal([]);
    expect(rules(behind, plist(purpose))).to.deep.equal(['background-half', 'background-half']);
  });

  it('ignores unrelated keys with similar spelling', () => {
    const others =
      '<key>NSMotionUsageDescription</key><string>Counts your ' +
      'steps.</string><key>NSCameraUsageDescription</key><string>x</string>';
    expect(rules(code, plist(purpose + others))).to.deep.equal([]);
    expect(
      rules(
        code,
        manifest(
          'ACCESS_COARSE_LOCATION',
          'ACCESS_FINE_LOCATION',
          'ACCESS_MEDIA_LOCATION',
          'FOREGROUND_SERVICE_HEALTH',
        ),
      ),
    ).to.deep.equal([]);
  });

  it('does not count a mention in a comment or a text as a use', () => {
    const commented = {
      path: 'app.js',
      text: `${code.text}// background: true\n/* const apiKey = 'abcdefghij0123456789'; */\n`,
    };
    expect(rules(commented, plist(purpose))).to.deep.equal([]);
    const page = {
      path: 'a.html',
      text: '<p>Write background: true, from "http://old.invalid/", apiKey="abcdefghij0123456789"</p>',
    };
    expect(rules(page)).to.deep.equal([]);
  });

  it('reads policies in the forms that servers write them', () => {
    const of = (line: string) => rules({ path: 'site.conf', text: line });
    expect(of('Permissions-Policy: geolocation=(self)')).to.deep.equal([]);
    expect(
      of('Header always set Permissions-Policy "geolocation=(self \\"https://a.invalid\\")"'),
    ).to.deep.equal(['malformed']);
    expect(of('add_header Permissions-Policy "geolocation=*, camera=()";')).to.deep.equal([]);
    expect(of('permissions-policy: camera=()')).to.deep.equal([]);
    expect(of('Permissions-Policy: geolocation=()')).to.deep.equal(['barred-by-policy']);
    expect(of('Permissions-Policy: geo-location=(self)')).to.deep.equal(['misspelt']);
    expect(of('Permissions-Policy: geolocation=(self')).to.deep.equal(['malformed']);
  });

  it('recognises a binary list and a truncated one, and names the line', () => {
    expect(first(code, { path: 'Info.plist', text: 'bplist00\u0000' }).rule).to.equal('binary-list');
    const { rule, line } = first(code, { path: 'Info.plist', text: '<plist>\n<dict>\n<key>NSLocation' });
    expect([rule, line]).to.deep.equal(['malformed', 3]);
  });

  it('takes any text for any of its files without falling over', () => {
    const names = [
      'Info.plist',
      'AndroidManifest.xml',
      'a.html',
      'a.conf',
      'a.js',
      'package.json',
      'de.lproj/InfoPlist.strings',
    ];
    const piece = fc.oneof(
      fc.string(),
      fc.constantFrom(
        '<plist><dict>',
        '<key>',
        '</key>',
        '<string>',
        '<manifest>',
        '<uses-permission',
        'android:name="',
        '<iframe allow="',
        '"',
        "'",
        'Permissions-Policy: ',
        'geolocation=(',
        '&amp;',
        '&#0;',
        '<!DOCTYPE a [<!ENTITY b "c">]>',
        '/*',
        '`',
      ),
    );
    fc.assert(
      fc.property(fc.constantFrom(...names), fc.array(piece, { maxLength: 12 }), (path, pieces) => {
        const { findings } = preflight([code, { path, text: pieces.join('') }], '0.1.0');
        for (const finding of findings) {
          expect(finding.problem.length).to.be.above(5);
          expect(finding.remedy.length).to.be.above(5);
          expect(finding.line ?? 1).to.be.at.least(1);
        }
      }),
      { numRuns: 500 },
    );
  });
});
