import { Receiver, browserSource } from 'aurelian-drift';

const tileKey = 'a1b2c3d4e5f6a7b8c9d0e1f2a3';
export const tiles = `https://tiles.vanesk.invalid/{z}/{x}/{y}.png?key=${tileKey}`;
export const server = 'http://positions.vanesk.invalid/take';
export const receiver = new Receiver({ source: browserSource(), purpose: 'This app needs your location.' });
