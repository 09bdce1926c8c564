/** Numbers points of whole coordinates: the same coordinates get the same number. */
export class PointTable {
  #slots: Int32Array;
  #x: Int32Array;
  #y: Int32Array;
  #size = 0;

  /** @param expected number of points that it is sized for. It grows beyond it. */
  constructor(expected: number) {
    const room = 2 ** Math.ceil(Math.log2(Math.max(16, expected * 2)));
    this.#slots = new Int32Array(room).fill(-1);
    this.#x = new Int32Array(room / 2);
    this.#y = new Int32Array(room / 2);
  }

  get size(): number {
    return this.#size;
  }

  x(point: number): number {
    return this.#x[point] as number;
  }

  y(point: number): number {
    return this.#y[point] as number;
  }

  /** Number of the point at these coordinates, counted from 0. */
  numberOf(x: number, y: number): number {
    if (this.#size === this.#x.length) this.#grow();
    const mask = this.#slots.length - 1;
    let slot = hash(x, y) & mask;
    for (;;) {
      const point = this.#slots[slot] as number;
      if (point === -1) break;
      if (this.#x[point] === x && this.#y[point] === y) return point;
      slot = (slot + 1) & mask;
    }
    this.#slots[slot] = this.#size;
    this.#x[this.#size] = x;
    this.#y[this.#size] = y;
    return this.#size++;
  }

  #grow(): void {
    const larger = new PointTable(this.#slots.length);
    for (let i = 0; i < this.#size; i++) larger.numberOf(this.x(i), this.y(i));
    this.#slots = larger.#slots;
    this.#x = larger.#x;
    this.#y = larger.#y;
  }
}

function hash(x: number, y: number): number {
  let h = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca6b);
  h ^= h >>> 15;
  h = Math.imul(h, 0x2c1b3c6d);
  return h ^ (h >>> 13);
}
