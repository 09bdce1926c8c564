import { LOOK } from 'aurelian-drift/map';
import { xmlText } from 'aurelian-drift/internal';
import type { PromptPreview } from './project.js';

/**
 * A self-contained page with the prompts that the user will see: the text of the app and the choices. It shows words
 * only, and imitates no system dialog.
 */
export function previewPage(prompts: readonly PromptPreview[]): string {
  const cards = prompts.map(card).join('\n');
  const none = '<p>No file of the project causes a prompt.</p>';
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>What users will be asked</title>
<style>
body { margin: 0 auto; max-width: 46rem; padding: 1.5rem 1rem; background: ${LOOK.parchment}; color: ${LOOK.ink};
  font: 1.06rem/1.45 'Source Sans 3', 'Source Sans Pro', sans-serif; }
h1 { font-size: 1.6rem; margin: 0 0 .3rem; }
article { border: 1.5px solid ${LOOK.ink}; background: ${LOOK.lane}; padding: .8rem 1.1rem; margin: 1rem 0; }
h2 { font-size: 1rem; margin: 0; color: ${LOOK.goldText}; font-weight: 400; }
blockquote { margin: .3rem 0 .6rem; font-size: 1.25rem; font-weight: 600; }
ul { margin: 0; padding: 0; list-style: none; display: flex; flex-wrap: wrap; gap: .2rem 1.4rem; }
li::before { content: '– '; }
</style>
</head>
<body>
<h1>What users will be asked</h1>
<p>The app’s own words, and the choices. How a system draws them is its own affair.</p>
${prompts.length === 0 ? none : cards}
</body>
</html>
`;
}

function card({ file, level, language, text, choices }: PromptPreview): string {
  const when = level === 'background' ? 'To go on in the background' : 'While the app is used';
  const head = [when, language, file].filter((part) => part !== undefined).join(' · ');
  const words =
    text === undefined
      ? '<p>In the system’s own words; the app adds none.</p>'
      : `<blockquote>${xmlText(text)}</blockquote>`;
  const lang = language === undefined ? '' : ` lang="${xmlText(language)}"`;
  const items = choices.map((choice) => `<li>${xmlText(choice)}</li>`).join('');
  return `<article><h2>${xmlText(head)}</h2><div${lang}>${words}</div><ul>${items}</ul></article>`;
}
