/**
 * What is fetched each day from an address of the list into a table, with the mapping that is remembered from the last
 * time that a file was brought by hand: as a service, under its rights.
 */
export interface Brought {
  id: string;
  name: string;
  address: string;
  table: string;
  /** By the portal's clock, as `02:30`. */
  at: string;
  /** The role of services that brings it. */
  role: string;
  /** What is done where some of it is refused: nothing is taken, or all the others. */
  refused: 'hold' | 'leave out';
}
