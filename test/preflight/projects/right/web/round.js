import { Receiver, browserSource } from 'aurelian-drift';

const receiver = new Receiver({ source: browserSource(), purpose: 'Shows you on the map of your round.' });
// The server supplies the key: const key = 'abcdefghij0123456789abcdefghij';
export const follow = receiver.follow({ profile: 'round', background: true, sign: 'On the round' });
