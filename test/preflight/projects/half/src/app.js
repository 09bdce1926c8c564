import { Receiver } from 'aurelian-drift';

export const start = (source) =>
  new Receiver({ source, purpose: 'Shows you on the map of your round.' }).follow({ accuracy: 8, background: true });
