/** What is charged once, to one customer alone, as it begins to be typed: the state that opens `/enrol` for it. */
export const OF_ITS_OWN = { planName: 'Single charges', name: 'Once', recurs: false, once: true };
