/** Why a check is not done, in the words that stand in its row. */
export const ENDED_ITS_WORKER = 'Checking it has ended its worker again and again, so it is passed over.';
export const HAS_CHANGED = 'The assignment has changed meanwhile.';
