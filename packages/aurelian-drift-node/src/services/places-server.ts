import type { FastifyInstance, FastifyReply } from 'fastify';
import { InputError, fencesFrom, position, timetable, type Position } from 'aurelian-drift';
import { answersToGeoJson, type Gazetteer, type PlaceAnswer } from 'aurelian-drift/places';
import {
  NoWayError,
  noWayToGeoJson,
  waysToGeoJson,
  type WayRequest,
  type WayService,
} from 'aurelian-drift/ways';
import { formatValue, suggestion } from 'aurelian-drift/internal';

/** Options of `placesServer`. */
export interface PlacesServerOptions {
  /** Places that the service answers from. */
  readonly gazetteer: Gazetteer;
  /** Ways for the route `/ways`. Default: there is no such route. */
  readonly ways?: WayService;
  /** Folder of pages to serve at `/`. */
  readonly pages?: string;
  /** Maximum requests per second from one address; more get 429. Default 50. */
  readonly maxRate?: number;
  /** Write a line per request to standard error: its route and status, never the position. Default false. */
  readonly log?: boolean;
}

/** Positions are private: the query is not logged. */
const LOG = {
  stream: process.stderr,
  serializers: {
    req: ({ method, url }: { method: string; url: string }) => ({ method, route: url.split('?')[0] ?? '' }),
  },
};

type Query = Readonly<Record<string, string | string[] | undefined>>;

/** Names of the parameters of each route. */
const WORDING = ['language', 'pattern'];
const ROUTES: Readonly<
  Record<
    string,
    { readonly names: readonly string[]; readonly ask: (gazetteer: Gazetteer, query: Query) => PlaceAnswer[] }
  >
> = {
  '/places/at': {
    names: ['lat', 'lon', 'level', ...WORDING],
    ask: (gazetteer, query) =>
      gazetteer.at(positionOf(query), {
        ...given({ level: text(query, 'level') }),
        ...wording(query),
      }),
  },
  '/places/near': {
    names: ['lat', 'lon', 'within', 'max', 'kinds', 'by', ...WORDING],
    ask: (gazetteer, query) =>
      gazetteer.near(positionOf(query), {
        ...given({
          within: number(query, 'within'),
          max: number(query, 'max'),
          kinds: text(query, 'kinds')?.split(','),
          by: text(query, 'by'),
        }),
        ...wording(query),
      }),
  },
  '/places/named': {
    names: ['text', 'near', 'max', ...WORDING],
    ask: (gazetteer, query) =>
      gazetteer.named(text(query, 'text') ?? '', {
        ...given({ near: pairOf(text(query, 'near')), max: number(query, 'max') }),
        ...wording(query),
      }),
  },
};

/**
 * A small HTTP service of a gazetteer: `/places/at`, `/places/near` and `/places/named`, with the option names of the
 * library as parameters, and of ways: `POST /ways`. It answers in GeoJSON (RFC 7946). A stand-in for development and
 * tests, and for a hut without a network; it has no users and no keys.
 */
export async function placesServer(options: PlacesServerOptions): Promise<FastifyInstance> {
  const { gazetteer, ways, pages, maxRate = 50, log = false } = options;
  // Loaded when it is needed: a program that imports the package for a store does not load a server.
  const [{ default: fastify }, { default: helmet }, { default: rateLimit }, { default: statics }] =
    await Promise.all([
      import('fastify'),
      import('@fastify/helmet'),
      import('@fastify/rate-limit'),
      import('@fastify/static'),
    ]);
  const server = fastify({
    logger: log ? LOG : false,
    // Browsers keep connections open for later requests: closing must not wait for that.
    forceCloseConnections: true,
    routerOptions: { ignoreTrailingSlash: true },
  });
  await server.register(helmet, {
    crossOriginResourcePolicy: { policy: 'cross-origin' },
    strictTransportSecurity: false, // there is no TLS here to insist on
    contentSecurityPolicy: {
      directives: {
        defaultSrc: ["'self'"],
        styleSrc: ["'self'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        fontSrc: ["'self'", 'data:'],
        connectSrc: ["'self'", 'http:', 'https:', 'ws:', 'wss:'],
        upgradeInsecureRequests: null, // it is served on this machine, without TLS
      },
    },
  });
  await server.register(rateLimit, {
    max: maxRate,
    timeWindow: 1000,
    allowList: ({ url }) => !/^\/(?:places\/|ways)/.test(url),
  });
  server.setErrorHandler((error: Error & { statusCode?: number }, _request, reply) =>
    refuse(reply, error instanceof InputError ? 400 : (error.statusCode ?? 500), error.message),
  );
  for (const [route, { names, ask }] of Object.entries(ROUTES)) {
    server.get(route, (request, reply) => {
      const query = request.query as Query;
      const unknown = Object.keys(query).find((name) => !names.includes(name));
      if (unknown !== undefined)
        throw new InputError(
          'unknown-option',
          `${route} has no parameter "${unknown}", ${suggestion(unknown, names)}`,
        );
      return reply
        .header('access-control-allow-origin', '*')
        .header('cache-control', 'private, max-age=600')
        .type('application/geo+json')
        .send(JSON.stringify(answersToGeoJson(ask(gazetteer, query))));
    });
  }
  const routes = [...Object.keys(ROUTES), ...(ways === undefined ? [] : ['/ways'])];
  if (ways !== undefined) addWays(server, ways);
  if (pages !== undefined) await server.register(statics, { root: pages });
  else server.get('/', (_request, reply) => reply.send({ routes }));
  server.setNotFoundHandler((request, reply) =>
    refuse(reply, 404, `there is no ${request.url.split('?')[0] ?? ''}; there are ${routes.join(', ')}`),
  );
  return server;
}

/** `POST /ways` with a question as JSON, areas as GeoJSON. The answer is GeoJSON; pages of any origin may ask. */
function addWays(server: FastifyInstance, ways: WayService): void {
  const open = (reply: FastifyReply) => reply.header('access-control-allow-origin', '*');
  server.options('/ways', (_request, reply) =>
    open(reply)
      .header('access-control-allow-methods', 'POST')
      .header('access-control-allow-headers', 'content-type, accept')
      .header('access-control-max-age', '86400')
      .code(204)
      .send(),
  );
  server.post('/ways', async (request, reply) => {
    const { body } = request;
    if (typeof body !== 'object' || body === null || Array.isArray(body))
      throw new InputError(
        'bad-value',
        'the body must be a question as JSON, like {"from":{"lat":44.2,"lon":-33.6},"to":…}',
      );
    const { avoid, closed, ...question } = body as { avoid?: unknown; closed?: unknown };
    const answer = await ways
      .ways({
        ...(question as unknown as WayRequest),
        ...(avoid !== undefined && { avoid: fencesFrom(avoid, { timetable }) }),
        ...(closed !== undefined && { closed: fencesFrom(closed, { timetable }) }),
      })
      .then(waysToGeoJson, (error: unknown) => {
        if (error instanceof NoWayError) return noWayToGeoJson(error);
        throw error;
      });
    return open(reply).type('application/geo+json').send(JSON.stringify(answer));
  });
}

function refuse(reply: FastifyReply, status: number, message: string): FastifyReply {
  return reply.header('access-control-allow-origin', '*').code(status).send({ error: message });
}

function positionOf(query: Query): Position {
  const [lat, lon] = [number(query, 'lat'), number(query, 'lon')];
  if (lat === undefined || lon === undefined)
    throw new InputError(
      'bad-value',
      `${lat === undefined ? 'lat' : 'lon'} is missing; both are degrees, like lat=44.2&lon=-33.6`,
    );
  return position(lat, lon);
}

function pairOf(text: string | undefined): Position | undefined {
  if (text === undefined) return undefined;
  const match = /^(-?\d+(?:\.\d+)?),(-?\d+(?:\.\d+)?)$/.exec(text);
  if (match === null)
    throw new InputError('bad-value', `near must be LAT,LON in degrees, got ${formatValue(text)}`);
  return position(Number(match[1]), Number(match[2]));
}

function number(query: Query, name: string): number | undefined {
  const value = text(query, name);
  if (value === undefined) return undefined;
  const read = /^-?\d+(?:\.\d+)?(?:e[-+]?\d+)?$/i.test(value) ? Number(value) : NaN;
  if (Number.isNaN(read))
    throw new InputError('bad-value', `${name} must be a number, got ${formatValue(value)}`);
  return read;
}

function text(query: Query, name: string): string | undefined {
  const value = query[name];
  if (Array.isArray(value)) throw new InputError('bad-value', `${name} was given ${value.length} times`);
  return value === '' ? undefined : value;
}

function wording(query: Query): object {
  return given({ language: text(query, 'language')?.split(','), pattern: text(query, 'pattern') });
}

function given(options: object): object {
  return Object.fromEntries(Object.entries(options).filter(([, value]) => value !== undefined));
}
