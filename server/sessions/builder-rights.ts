/** What somebody who builds may do: all and the other builders, these portals, or only look. */
export const builderRights = ['owner', 'builder', 'reader'] as const;

export type BuilderRight = (typeof builderRights)[number];
