import { Receiver } from 'aurelian-drift';

export const once = (source) => new Receiver({ source, purpose: 'Shows the hut nearest to you.' }).fix({ accuracy: 2000 });
