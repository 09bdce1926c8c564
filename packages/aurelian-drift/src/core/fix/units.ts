/** Systems of units that a `Formatter` writes in. */
export const UNIT_SYSTEMS = ['metric', 'imperial', 'nautical'] as const;
/** Metres and kilometres, feet and miles, or metres and nautical miles with knots. */
export type UnitSystem = (typeof UNIT_SYSTEMS)[number];

/** A unit: its size in SI, its symbol, and its name in `Intl`, where it has one. */
export interface Unit {
  readonly size: number;
  readonly sign: string;
  readonly intl?: string;
}

/** The units of a system. */
export interface Units {
  readonly small: Unit;
  readonly large: Unit;
  readonly speed: Unit;
  /** Length in metres from which the large unit is used. */
  readonly largeFrom: number;
}

const METRE: Unit = { size: 1, sign: 'm', intl: 'meter' };
const MILE = 1609.344;
const NAUTICAL_MILE = 1852;

/** `Intl` has neither knots nor nautical miles. */
export const UNITS: Readonly<Record<UnitSystem, Units>> = {
  metric: {
    small: METRE,
    large: { size: 1000, sign: 'km', intl: 'kilometer' },
    speed: { size: 1 / 3.6, sign: 'km/h', intl: 'kilometer-per-hour' },
    largeFrom: 1000,
  },
  imperial: {
    small: { size: 0.3048, sign: 'ft', intl: 'foot' },
    large: { size: MILE, sign: 'mi', intl: 'mile' },
    speed: { size: MILE / 3600, sign: 'mph', intl: 'mile-per-hour' },
    largeFrom: MILE / 4,
  },
  nautical: {
    small: METRE,
    large: { size: NAUTICAL_MILE, sign: 'nmi' },
    speed: { size: NAUTICAL_MILE / 3600, sign: 'kn' },
    largeFrom: NAUTICAL_MILE / 2,
  },
};
