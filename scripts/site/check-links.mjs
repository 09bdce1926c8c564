/* Checks the site: every link and picture leads to a file of the site, and every anchor to an element. */
import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join, normalize, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

const site = fileURLToPath(new URL('../../build/site', import.meta.url));
const files = new Set(
  readdirSync(site, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name)),
);
const pages = [...files].filter((file) => file.endsWith('.html'));
const anchors = new Map();
const texts = new Map();
for (const page of pages) {
  const text = readFileSync(page, 'utf8');
  texts.set(page, text);
  anchors.set(page, new Set([...text.matchAll(/\s(?:id|name)="([^"]*)"/g)].map(([, id]) => id)));
}
const problems = [];
let links = 0;
for (const page of pages)
  for (const [, link] of texts.get(page).matchAll(/\s(?:href|src)="([^"]*)"/g)) {
    if (/^(https?:|mailto:|data:|#$)/.test(link) || link === '') continue;
    links++;
    const [path, anchor] = link.replaceAll('&amp;', '&').split('#');
    const tell = (what) => problems.push(`${relative(site, page)}: ${link} ${what}`);
    if (path.startsWith('/')) {
      tell('does not work under another path');
      continue;
    }
    const target = path === '' ? page : normalize(join(dirname(page), decodeURIComponent(path)));
    if (!files.has(target)) tell('is not there');
    else if (anchor && anchors.has(target) && !anchors.get(target).has(decodeURIComponent(anchor)))
      tell('has no such anchor');
  }
for (const problem of problems.slice(0, 40)) console.error(problem);
console.log(`${pages.length} pages, ${links} links, ${problems.length} broken`);
process.exit(problems.length === 0 ? 0 : 1);
