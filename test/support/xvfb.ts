import { spawn, type ChildProcess } from 'node:child_process';

/** A virtual screen for browsers that need one; started for a describe block and ended after it. */
export function screen(): { readonly display: string } {
  let xvfb: ChildProcess;
  const started = { display: '' };
  before(async () => {
    xvfb = spawn('Xvfb', ['-displayfd', '1', '-screen', '0', '1280x900x24', '-nolisten', 'tcp'], {
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    started.display = await new Promise<string>((resolve, reject) => {
      xvfb.on('error', reject);
      xvfb.stdout!.once('data', (data: Buffer) => resolve(`:${data.toString().trim()}`));
    });
  });
  after(() => xvfb.kill());
  return started;
}
