/* npm run package:check: packs both packages as for publishing, and checks their contents. */
import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './setup.mjs';

const folder = join(root, 'build/packed');
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });
const packing = ['pack', '--workspaces', '--silent', '--pack-destination', folder];
let code = run('npm', packing, { stdio: ['ignore', 'ignore', 'inherit'] });
const publint = join(root, 'node_modules/.bin/publint');
const packed = readdirSync(folder);
for (const tarball of packed) code ||= run(publint, ['run', join(folder, tarball), '--strict']);
process.exit(code || (packed.length === 2 ? 0 : 1));
