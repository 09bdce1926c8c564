import type { TimetableOptions } from 'aurelian-drift';
import type { Point } from './terrain.js';

/* Positions that are set by hand: metres east and north of the island's centre. */

export const HAMLETS: readonly { name: string; at: Point; streets: readonly string[] }[] = [
  { name: 'Wick Orrin', at: [-750, -1500], streets: ['Plover Lane', 'Net Loft Street', 'Chandler’s Row'] },
  { name: 'Tolvay', at: [1500, 350], streets: ['Mill Lane', 'Teasel Street'] },
  { name: 'Skerrin', at: [3300, 1150], streets: ['Marram Street', 'Kelp Lane'] },
  { name: 'Nethery', at: [-3050, -700], streets: ['Orchard Lane', 'Thrush Street'] },
  { name: 'Sallowick', at: [-1150, 1640], streets: ['Sallow Lane', 'Byre Street'] },
  { name: 'Hasp End', at: [2450, -1150], streets: ['Hasp Lane', 'Lantern Street'] },
];

/** Lanes between hamlets, with their names. */
export const LANES: readonly (readonly [from: string, to: string, name: string])[] = [
  ['Wick Orrin', 'Tolvay', 'Long Lane'],
  ['Tolvay', 'Skerrin', 'Sandy Lane'],
  ['Wick Orrin', 'Nethery', 'Shore Lane'],
  ['Tolvay', 'Hasp End', 'Thistle Lane'],
  ['Sallowick', 'Tolvay', 'Saddle Lane'],
  ['Nethery', 'Sallowick', 'Carn Lane'],
];

/** The lane that fords a stream, and the street that may be entered from one end only. */
export const FORD_LANE = 'Shore Lane';
export const ONE_WAY = 'Chandler’s Row';

/** Paths past these places. */
export const PATHS: readonly (readonly Point[])[] = [
  [[-750, -1500], [-1500, -900], [-1450, -150], [-700, 60], [-100, -250], [-150, -900], [-750, -1500]],
  [[3300, 1150], [3850, 1560], [3500, 1800], [2800, 1700], [2300, 1250], [3300, 1150]],
  [[-3050, -700], [-3600, -200], [-3350, 600], [-2750, 350], [-2300, -100], [-3050, -700]],
  [[-1450, -150], [-1800, 500], [-1600, 1150], [-900, 1350], [-300, 800], [-100, -250]],
  [[-1600, 1150], [-1150, 1640]],
  [[-3350, 600], [-2500, 1100], [-1600, 1150]],
  [[2450, -1150], [2000, -1400], [1450, -1000], [1700, -450], [1500, 350]],
  [[-300, 800], [600, 900], [1500, 350]],
  [[-3050, -700], [-3700, -1300], [-3500, -1700]],
  [[-750, -1500], [-1500, -1800], [-2250, -1500], [-3050, -700]],
]; // prettier-ignore

export const SPRINGS: readonly Point[] = [
  [-1500, 1000], [-2750, 250], [500, 850], [1900, 750], [1700, -900], [-1900, 1250], [-2500, -500], [-700, -560],
]; // prettier-ignore

export const HILLS: readonly { name: string; at: Point }[] = [
  { name: 'Carn Issel', at: [-1700, 1100] },
  { name: 'Nether Hill', at: [-2900, 500] },
  { name: 'The Saddle', at: [620, 760] },
];

/** Names in Vaneskan, the island’s own language. */
export const VANESKAN: Readonly<Record<string, string>> = {
  Vanesk: 'Vanasker',
  'Wick Orrin': 'Vik Orrenn',
  Tolvay: 'Tolavæ',
  Skerrin: 'Skerrænn',
  Nethery: 'Naðri',
  Sallowick: 'Salvik',
  'Plover Lane': 'Lova Tivik',
  'Mill Lane': 'Lova Mullin',
  'Carn Issel': 'Karn Issil',
  'Issel Tarn': 'Tjarn Issil',
  'Orrin Bay': 'Vágr Orrenn',
  'Wardens’ Hut': 'Varðahus',
  'Chapel Well': 'Kapelbrunn',
};

export interface SpotPlan {
  readonly name: string;
  readonly kind: string;
  /** Metres east and north of the island’s centre, or a house. */
  readonly at: Point | { readonly houseNumber: string; readonly street: string; readonly locality: string };
  /** 0 to 100: how well the islanders know it. */
  readonly prominence: number;
  readonly details?: Readonly<Record<string, string | TimetableOptions>>;
}

/** Hours of every day, in the time of the island. */
const daily = (hours: string): TimetableOptions => ({ hours, timeZone: 'Etc/GMT+2' });

/** Points of interest of the island. Two share one name. */
export const SPOTS: readonly SpotPlan[] = [
  { name: 'Wardens’ Hut', kind: 'hut', at: [-640, -1380], prominence: 90, details: { opening: daily('07:00/21:00'),
    radio: 'channel 6' } },
  { name: 'Carn Bothy', kind: 'hut', at: [-1590, 1060], prominence: 35, details: { opening: daily('00:00/24:00'), beds: '4' } },
  { name: 'Tarn Hide', kind: 'hide', at: [-470, -330], prominence: 45, details: { seats: '6' } },
  { name: 'Tern Hide', kind: 'hide', at: [3560, 1690], prominence: 40, details: { seats: '4' } },
  { name: 'Orrin Stores', kind: 'shop', at: { houseNumber: '5', street: 'Plover Lane', locality: 'Wick Orrin' },
    prominence: 70, details: { opening: daily('08:00/17:00') } },
  { name: 'Tolvay Stores', kind: 'shop', at: { houseNumber: '4', street: 'Mill Lane', locality: 'Tolvay' },
    prominence: 55, details: { opening: daily('09:00/16:00') } },
  { name: 'Marram Bakehouse', kind: 'shop', at: { houseNumber: '3', street: 'Marram Street', locality: 'Skerrin' },
    prominence: 50, details: { opening: daily('06:00/11:00') } },
  { name: 'The Clouded Yellow', kind: 'inn', at: { houseNumber: '7', street: 'Lantern Street',
    locality: 'Hasp End' }, prominence: 75, details: { opening: daily('12:00/23:00') } },
  { name: 'Chapel Well', kind: 'well', at: [-2990, -590], prominence: 20 },
  { name: 'Chapel Well', kind: 'well', at: [1420, 470], prominence: 25 },
  { name: 'Byre Well', kind: 'well', at: [-1090, 1560], prominence: 10 },
  { name: 'Saddle Stone', kind: 'viewpoint', at: [625, 770], prominence: 30 },
  { name: 'Nethery Telephone', kind: 'telephone', at: [-3080, -760], prominence: 15 },
]; // prettier-ignore

/** Names on water: the larger the water, the smaller the zoom from which its name shows. */
export const WATERS: readonly { name: string; at: Point; radius: number }[] = [
  { name: 'Orrin Bay', at: [250, -2250], radius: 650 },
  { name: 'Sallow Sound', at: [-150, 2780], radius: 600 },
  { name: 'Issel Tarn', at: [-700, -350], radius: 220 },
  { name: 'Vane Race', at: [4350, -600], radius: 500 },
];

export interface RoundPlan {
  readonly id: string;
  readonly name: string;
  readonly past: readonly Point[];
  /** Sections along it: name, start and end as shares of the round, and vegetation. */
  readonly sections: readonly {
    name: string;
    from: number;
    to: number;
    cover: 'meadow' | 'scrub' | 'dune';
  }[];
  /** Closed banks beside it: share of the round, and metres to the left of it. */
  readonly banks?: readonly { name: string; at: number; left: number }[];
}

export const ROUNDS: readonly RoundPlan[] = [
  {
    id: 'tarn-round',
    name: 'Tarn Round',
    past: [[-750, -1500], [-1500, -900], [-1450, -150], [-700, 60], [-100, -250], [-150, -900], [-750, -1500]],
    sections: [
      { name: 'Ox-eye Meadow', from: 0.07, to: 0.15, cover: 'meadow' },
      { name: 'Sedge Bottom', from: 0.24, to: 0.32, cover: 'scrub' },
      { name: 'Tarn Head', from: 0.45, to: 0.55, cover: 'meadow' },
      { name: 'Burnet Slope', from: 0.66, to: 0.75, cover: 'meadow' },
      { name: 'Bracken Piece', from: 0.83, to: 0.91, cover: 'scrub' },
    ],
  },
  {
    id: 'dune-round',
    name: 'Dune Round',
    past: [[3300, 1150], [3850, 1560], [3500, 1800], [2800, 1700], [2300, 1250], [3300, 1150]],
    sections: [
      { name: 'Marram East', from: 0.13, to: 0.22, cover: 'dune' },
      { name: 'Thrift Slack', from: 0.31, to: 0.41, cover: 'dune' },
      { name: 'Vetch Corner', from: 0.5, to: 0.59, cover: 'meadow' },
      { name: 'Gorse Hollow', from: 0.7, to: 0.8, cover: 'scrub' },
    ],
    banks: [
      { name: 'Tern Bank', at: 0.265, left: 95 },
      { name: 'Skerrin Bank', at: 0.46, left: 105 },
    ],
  },
  {
    id: 'west-round',
    name: 'West Round',
    past: [[-3050, -700], [-3600, -200], [-3350, 600], [-2750, 350], [-2300, -100], [-3050, -700]],
    sections: [
      { name: 'Orchard Foot', from: 0.08, to: 0.17, cover: 'meadow' },
      { name: 'Scabious Down', from: 0.38, to: 0.48, cover: 'meadow' },
      { name: 'Heather Shoulder', from: 0.62, to: 0.72, cover: 'scrub' },
    ],
  },
  {
    id: 'hasp-round',
    name: 'Hasp Round',
    past: [[2450, -1150], [2000, -1400], [1450, -1000], [1700, -450], [1500, 350], [2450, -1150]],
    sections: [
      { name: 'Knapweed Field', from: 0.12, to: 0.2, cover: 'meadow' },
      { name: 'Blackthorn Side', from: 0.3, to: 0.38, cover: 'scrub' },
      { name: 'Lantern Lea', from: 0.62, to: 0.72, cover: 'meadow' },
    ],
  },
  {
    id: 'carn-round',
    name: 'Carn Round',
    past: [[-1150, 1640], [-1600, 1150], [-1800, 500], [-1450, -150], [-100, -250], [-300, 800], [-900, 1350],
    [-1600, 1150], [-1150, 1640]],
    sections: [
      { name: 'Cloud Ledge', from: 0.2, to: 0.26, cover: 'scrub' },
      { name: 'Tansy Bank', from: 0.6, to: 0.66, cover: 'meadow' },
    ],
  },
]; // prettier-ignore
