import * as v from 'valibot';

/** A text that may be missing, in data from outside. */
export const OptionalText = v.optional(v.string());

/** The parts of an address as the entries of an object schema. */
export const ADDRESS_ENTRIES = {
  houseNumber: OptionalText,
  street: OptionalText,
  locality: OptionalText,
  region: OptionalText,
  postalCode: OptionalText,
  country: OptionalText,
} as const;
