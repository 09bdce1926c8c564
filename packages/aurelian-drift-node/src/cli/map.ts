import { Command, Option } from 'commander';
import { writeFile } from 'node:fs/promises';
import {
  boundsOf,
  UNIT_SYSTEMS,
  type Bounds,
  type Fence,
  type Position,
  type UnitSystem,
} from 'aurelian-drift';
import {
  Camera,
  writeSvg,
  sheetScene,
  type SheetContent,
  type Theme,
  stillTiles,
  type TrailPaint,
  type TrailPath,
} from 'aurelian-drift/map';
import { SHADINGS, THEMES, TRAIL_PATHS, type Shading } from 'aurelian-drift/internal';
import { creditOf } from './demo.js';
import { readClosedFences, readFences, readGround, readTracks } from './files.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { pngOf } from './picture.js';
import { durationArgument, sizeArgument } from './quantities.js';
import { counted } from './counted.js';
import { tilesFrom } from './tile-files.js';
import { FORMAT_TITLES } from './track-output.js';

interface Options {
  out: string;
  base?: string;
  fences?: string;
  size: { width: number; height: number };
  title?: string;
  theme: Theme;
  shade: Shading;
  units: UnitSystem;
  crumbs?: number;
  tiles?: string;
  tileCredit?: string;
  path: TrailPath;
  json?: boolean;
}

export function mapCommand(): Command {
  return new Command('map')
    .description('draw a still picture of trails and lines')
    .argument('<files...>', `${FORMAT_TITLES}; - for standard input`)
    .requiredOption('-o, --out <file>', 'picture to write, .svg or .png')
    .option('--base <file>', 'GeoJSON of the background, or demo for the island (default: a grid)')
    .option(
      '--tiles <where>',
      'tiles as the background: a template with {z}, {x} and {y}, or a folder or ZIP file with ZOOM/COLUMN/ROW.png',
    )
    .option('--tile-credit <text>', 'source of the tiles (default: that of about.json beside them)')
    .option('--fences <file>', 'GeoJSON of fences, or demo for the sections of the island')
    .option('--size <pixels>', 'width and height in pixels', sizeArgument, { width: 1280, height: 800 })
    .option('--title <text>', 'title above the map')
    .addOption(
      new Option('--shade <value>', 'quantity of the colour of trails').choices(SHADINGS).default('speed'),
    )
    .addOption(
      new Option('--path <path>', 'draw trails from fix to fix, smoothed, or both')
        .choices(TRAIL_PATHS)
        .default('raw'),
    )
    .option('--crumbs <duration>', 'draw marks along trails at this interval', durationArgument)
    .addOption(new Option('--theme <theme>', 'colours').choices(THEMES).default('day'))
    .addOption(new Option('--units <units>', 'units of the scale').choices(UNIT_SYSTEMS).default('metric'))
    .option('--json', 'print the result as JSON')
    .action(async (files: string[], options: Options) => {
      const { out, base, fences: fencesFile, size, title, theme, shade, units, crumbs, path } = options;
      if (base !== undefined && options.tiles !== undefined)
        throw new Misuse('--base and --tiles: a map has one background');
      if (!/\.(svg|png)$/i.test(out))
        throw new Misuse(`${out}: the ending says the format; .svg and .png are known`);
      const read = await Promise.all(files.map((file) => readTracks(file)));
      const trails = read.flatMap((file) => file.trails);
      const lines = read.flatMap((file) => [...file.lines, ...file.routes]);
      const ground = base === undefined ? undefined : await readGround(base);
      const fences = fencesFile === undefined ? undefined : await readFences(fencesFile);
      const closed = fencesFile === undefined ? new Set<string>() : await readClosedFences(fencesFile);
      const last = trails.at(-1)?.at(-1);
      const paint: TrailPaint = { shade, path, ...(crumbs !== undefined && { crumbs: { every: crumbs } }) };
      const toneOf = (fence: Fence) => (closed.has(fence.id) ? 'closed' : 'ordinary');
      // Lines alone are shown on the whole of their ground; a trail is shown closely.
      const points =
        trails.length > 0 || ground === undefined
          ? [...trails.flatMap((trail) => [...trail]), ...lines.flatMap((line) => line.parts.flat())]
          : [];
      const bounds = boundsAround(points, ground?.bounds);
      const camera = new Camera({ centre: { lat: 0, lon: 0 }, zoom: 15, ...size }).framing(bounds, 70, 17);
      const tiles =
        options.tiles === undefined
          ? undefined
          : await stillTiles(camera, await tilesFrom(options.tiles, options.tileCredit));
      const content: SheetContent = {
        layers: [
          ...(tiles === undefined ? [] : [tiles]),
          ...lines.map((line) => ({ kind: 'line' as const, line })),
          ...trails.map((trail) => ({ kind: 'trail' as const, trail, paint })),
          ...(ground === undefined ? [] : [{ kind: 'ground' as const, ground }]),
          ...(fences === undefined ? [] : [{ kind: 'fences' as const, fences, paint: { toneOf } }]),
        ],
        ...(last !== undefined && { fix: last }),
        margin: {
          units,
          title: title ?? trails.map((trail) => trail.name ?? 'unnamed').join(', '),
          // Tiles bring their own credit.
          ...(tiles === undefined && { credit: base === undefined ? 'No background' : creditOf(base) }),
        },
      };
      const svg = writeSvg(sheetScene(camera, content), theme);
      await writeFile(out, out.toLowerCase().endsWith('.png') ? await pngOf(svg) : svg);
      if (options.json === true)
        printJson({ out, ...size, centre: camera.centre, zoom: camera.zoom, bounds: camera.bounds });
      else
        process.stdout.write(
          `${out}: ${counted(trails.length, 'trail')}, ${counted(lines.length, 'line')}, ${size.width} ` +
            `by ${size.height} pixels\n`,
        );
    });
}

function boundsAround(points: Iterable<Position>, ground: Bounds | undefined): Bounds {
  const bounds = boundsOf(points) ?? ground;
  if (bounds === undefined) throw new Misuse('there is nothing to draw: no trail, no line, no background');
  return bounds;
}
