/** Whether random tests try all that they were written for, `npm test -- --thorough`: for a night, not for a change. */
export const isThorough = process.env.STONE_PORCH_THOROUGH === '1';

/** How much a random test tries: what `npm test` has time for, and all of it when there is time. */
export const tries = (soon: number, thorough: number): number => (isThorough ? thorough : soon);
