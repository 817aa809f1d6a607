import type { CallEntry } from '../../client/calls';

export const callStateWords: Record<CallEntry['state'], string> = {
  held: 'Being kept',
  waiting: 'Waiting',
  sending: 'Being told',
  done: 'Answered',
  'given up': 'Given up',
  unsure: 'Unsure',
};

export const callStates = Object.keys(callStateWords) as CallEntry['state'][];
