/* For TypeDoc: the papers with their own titles, in groups; entries by the names with which they are imported. */
import { cpSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Comment, CommentTag, Converter, RendererEvent } from 'typedoc';

/** Groups of the papers, in the order of the README. A paper that is in none stops the build. */
const GROUPS = {
  Begin: ['install', 'moving', 'troubleshooting', 'phone', 'testing'],
  Jobs: [
    'access', 'receiver', 'trails', 'true-path', 'report', 'fences', 'map', 'tiles', 'another-map', 'places', 'plans',
    'ways', 'party', 'scale',
  ],
  'In your app': [
    'frameworks', 'without-script', 'elements', 'in-your-page', 'bridge', 'preflight', 'browser-support',
  ],
  'To look up': [
    'glossary', 'words', 'formats', 'simulation', 'demo', 'benchmarks', 'open-ends', 'architecture', 'CONTRIBUTING',
    'CHANGELOG', 'UPGRADING',
  ],
}; // prettier-ignore
const ENTRIES = 'API reference';
const FONTS = createRequire(import.meta.url).resolve('@fontsource/source-sans-3/package.json');

/** @param {import('typedoc').Application} app */
export function load(app) {
  app.converter.on(
    Converter.EVENT_RESOLVE_BEGIN,
    ({ project }) => {
      const order = Object.values(GROUPS).flat();
      const place = ({ name }) => order.indexOf(name.replace(/^docs\//, ''));
      for (const list of [project.documents, project.childrenIncludingDocuments])
        list?.sort((a, b) => place(a) - place(b));
      for (const paper of project.documents ?? []) {
        const file = paper.name.replace(/^docs\//, '');
        const group = Object.keys(GROUPS).find((name) => GROUPS[name].includes(file));
        if (group === undefined) throw new Error(`docs/${file}.md is in no group of scripts/site/plugin.mjs`);
        paper.frontmatter.group = group;
        paper.name = file; // of its page; its title follows
      }
      for (const entry of project.children ?? []) {
        entry.name = entry.name.replace('/src', '').replace(/\/index$/, '');
        entry.comment ??= new Comment();
        entry.comment.blockTags.push(new CommentTag('@group', [{ kind: 'text', text: ENTRIES }]));
      }
    },
    1000,
  );
  app.renderer.on(RendererEvent.BEGIN, ({ project }) => {
    for (const paper of project.documents ?? []) takeTitle(paper);
    // The page has its own heading.
    const [first] = project.readme;
    first.text = first.text.slice(headingOf(project.readme).whole.length);
  });
  app.renderer.on(RendererEvent.END, ({ outputDirectory }) => {
    for (const weight of [400, 600]) {
      const name = `source-sans-3-latin-${weight}-normal.woff2`;
      cpSync(FONTS.replace('package.json', `files/${name}`), `${outputDirectory}/assets/${name}`);
    }
  });
}

/** The name of a paper in the navigation is its first heading. */
function takeTitle(paper) {
  const title = headingOf(paper.content);
  if (title === undefined) throw new Error(`${paper.name} begins with no heading`);
  paper.name = title.text;
}

function headingOf([first]) {
  const found = /^\s*# (.+)\n/.exec(first?.text ?? '');
  return found === null ? undefined : { whole: found[0], text: found[1].replaceAll('`', '') };
}
