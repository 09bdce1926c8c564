import {
  FenceWatch,
  ahead,
  fixFrom,
  sharedFences,
  smallestFence,
  type Fence,
  type TooSmallFence,
} from 'aurelian-drift';
import { expect } from 'chai';

const hut = { lat: 44.2, lon: -33.6 };
const start = Date.UTC(2026, 4, 14, 8);
const circle = (id: string, radius: number, certainty?: number): Fence => ({
  kind: 'circle',
  id,
  name: id,
  centre: hut,
  radius,
  ...(certainty !== undefined && { certainty }),
});
/** Fixes of ±8 m, one a second, while standing at a distance from the hut. */
const stand = (watch: FenceWatch, seconds: number, from = 0, metres = 0) => {
  for (let i = from; i < from + seconds; i++)
    watch.take(fixFrom({ time: start + i * 1000, ...ahead(hut, 90, metres), accuracy: 8 }));
};

describe('a fence that is smaller than the accuracy can settle', () => {
  it('is told once the accuracy is known, with the radius that would do', () => {
    const told: TooSmallFence[] = [];
    const fences = [circle('spring', 5), circle('yard', 8.5), circle('doubtful', 7.1, 0.9)];
    const watch = new FenceWatch(fences, { onTooSmall: (fence) => told.push(fence) });
    stand(watch, 9);
    expect(told).to.deep.equal([]);
    stand(watch, 200, 9);
    expect(told).to.have.length(1);
    expect(told[0]).to.include({ fence: 'spring', when: 'accuracy-known', accuracy: 8, size: 5 });
    expect(told[0]!.needed).to.be.closeTo(8, 1e-9);
    expect(told[0]!.text)
      .to.include('fence "spring" of 5 m is too small for fixes of ±8 m')
      .and.include('8 m at least');
    expect(watch.tooSmall).to.deep.equal(told);
    // The rule holds: who stands in the middle of each is inside those that are large enough.
    expect([...watch.inside].toSorted()).to.deep.equal(['doubtful', 'yard']);
  });

  it('is told when it is added, and again when it is put there anew', () => {
    const watch = new FenceWatch([]);
    stand(watch, 20);
    watch.add(circle('spring', 5));
    expect(watch.tooSmall.map(({ when }) => when)).to.deep.equal(['accuracy-known']);
    watch.add(circle('spring', 6));
    watch.add(circle('spring', 9));
    expect(watch.tooSmall.map(({ size }) => size)).to.deep.equal([5, 6]);
  });

  it('that many users share is told to the one who stays near it for a minute', () => {
    const fences = sharedFences([circle('spring', 5), circle('yard', 60)]);
    const [near, far] = [new FenceWatch(fences), new FenceWatch(fences)];
    stand(near, 59);
    stand(far, 200, 0, 300);
    expect(near.tooSmall).to.deep.equal([]);
    stand(near, 10, 59);
    expect(near.tooSmall.map(({ fence, when }) => [fence, when])).to.deep.equal([['spring', 'undecided']]);
    expect(far.tooSmall).to.deep.equal([]);
  });

  it('has the least radius that holds the certainty of the spread', () => {
    // A circular normal spread of 95 % radius a has σ = a / 2.4477; its share within r is 1 − exp(−r² / 2σ²).
    for (const [accuracy, certainty, radius] of [
      [8, 0.95, 8],
      [8, 0.5, 3.848],
      [20, 0.99, 24.8],
    ] as const)
      expect(smallestFence(accuracy, certainty)).to.be.closeTo(radius, 0.01);
  });
});
