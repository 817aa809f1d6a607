/** The processes of one server on one machine, as one of them knows them. */
export interface Among {
  /** So many serve, of so many that should. */
  live: number;
  wanted: number;
  /** Whether this one does what one does for all, by the clock. */
  leads: boolean;
  /** The numbers of all of them, in the text format of `/metrics`; null where there is no other. */
  metricsOfAll: (() => Promise<string>) | null;
  /** This one's own, for whoever gathers them; null while nobody may have them. */
  ownMetrics: (() => Promise<unknown>) | null;
}

/** A process that has no other beside it. */
export const alone = (): Among => ({ live: 1, wanted: 1, leads: true, metricsOfAll: null, ownMetrics: null });
