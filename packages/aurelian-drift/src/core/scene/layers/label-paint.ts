/** How a kind of name is written; important kinds first. */
export interface LabelPaint {
  /** Smallest zoom at which it is shown. */
  readonly from: number;
  readonly size: number;
  readonly weight: 400 | 600;
  readonly italic?: boolean;
  /** Pixels between letters. */
  readonly spacing?: number;
  /** A small mark at the place, with the name beside it; without one the name is centred. */
  readonly mark?: 'summit' | 'dot';
}

export const LABEL_PAINT: Readonly<Record<string, LabelPaint>> = {
  hamlet: { from: 11, size: 15, weight: 600 },
  sea: { from: 11.5, size: 15, weight: 400, italic: true, spacing: 2.2 },
  hill: { from: 12.5, size: 12.5, weight: 400, mark: 'summit' },
  tarn: { from: 13.2, size: 12.5, weight: 400, italic: true, spacing: 0.6 },
  place: { from: 12, size: 13, weight: 400, mark: 'dot' },
};
