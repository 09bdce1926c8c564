import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { PNG } from 'pngjs';

/** Options of a tile server. */
export interface TileManner {
  /** Pixels of a side. Default 256. */
  size?: number;
  /** Its answer to every request, instead of a tile. */
  status?: number;
  key?: string;
  /** The status of one tile, by its path; `undefined` for a tile. */
  statusOf?: (path: string) => number | undefined;
  /** Answers later than this: it resolves when they may go. */
  hold?: Promise<void>;
}

/** A small local server of one-coloured tiles; the colour depends on the zoom. */
export async function tileServer(manner: TileManner = {}): Promise<{
  readonly address: string;
  readonly asked: string[];
  /** Paths of requests that were taken back before the answer. */
  readonly dropped: string[];
  readonly manner: TileManner;
  close(): Promise<void>;
}> {
  const asked: string[] = [];
  const dropped: string[] = [];
  const answer = async (request: IncomingMessage, response: ServerResponse) => {
    const url = new URL(request.url ?? '/', 'http://localhost');
    asked.push(url.pathname);
    response.on('close', () => response.writableFinished || dropped.push(url.pathname));
    await manner.hold;
    response.setHeader('access-control-allow-origin', '*');
    const failing = manner.status !== undefined;
    if (failing || (manner.key !== undefined && url.searchParams.get('key') !== manner.key)) {
      response.statusCode = manner.status ?? 401;
      response.end();
      return;
    }
    const own = manner.statusOf?.(url.pathname);
    if (own !== undefined) {
      response.statusCode = own;
      response.end();
      return;
    }
    const z = Number(url.pathname.split('/')[1]);
    response.setHeader('content-type', 'image/png');
    response.end(tile(manner.size ?? 256, z));
  };
  const server: Server = createServer((request, response) => void answer(request, response));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  return {
    address: `http://127.0.0.1:${port}`,
    asked,
    dropped,
    manner,
    close: () => new Promise((resolve) => server.close(() => resolve())),
  };
}

/** Colour of the tiles of a zoom. */
export const tileColour = (z: number): [number, number, number] => [60, 10 * z, 200];

function tile(size: number, z: number): Buffer {
  const png = new PNG({ width: size, height: size });
  const [r, g, b] = tileColour(z);
  for (let i = 0; i < png.data.length; i += 4) png.data.set([r, g, b, 255], i);
  return PNG.sync.write(png);
}
