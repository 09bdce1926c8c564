export { randomFrom, type Random } from './core/motion/random.js';
