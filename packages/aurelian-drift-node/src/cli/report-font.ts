import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import type { ReportFont } from 'aurelian-drift/report';

/** Font of the package, so that a report looks the same everywhere. */
export async function reportFont(): Promise<ReportFont> {
  const require = createRequire(import.meta.url);
  const [regular = '', semibold = ''] = await Promise.all(
    [400, 600].map((weight) =>
      readFile(
        require.resolve(`@fontsource/source-sans-3/files/source-sans-3-latin-${weight}-normal.woff2`),
        'base64',
      ),
    ),
  );
  return { regular, semibold };
}
