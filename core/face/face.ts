/** The pairs of typefaces that are shipped: of headings, and of text. */
export const typePairs = ['stone', 'plain', 'book', 'round'] as const;
export type TypePair = (typeof typePairs)[number];

export const cornerStyles = ['square', 'slight', 'round'] as const;
export type CornerStyle = (typeof cornerStyles)[number];

export const densities = ['tight', 'even', 'airy'] as const;
export type Density = (typeof densities)[number];

export const themes = ['device', 'light', 'dark'] as const;
export type Theme = (typeof themes)[number];

/** How a portal looks, beside its name and the colour of its top; what is absent looks as it comes. */
export interface Face {
  /** Colour of what is pressed and of links, `#rrggbb`; made darker or lighter where text needs it. */
  accent?: string;
  /** Colour behind everything by light, `#rrggbb`; made paler where text needs it. */
  ground?: string;
  type?: TypePair;
  corners?: CornerStyle;
  density?: Density;
  theme?: Theme;
  /** A picture as an address with its bytes, `data:image/png;base64,…`. */
  logo?: string;
  /** Said at the sign-in, below the name. */
  welcome?: string;
  /** What it is called below its picture on a home screen; its name when absent. */
  homeName?: string;
  /** A stylesheet of its own, held below the portal's root. */
  stylesheet?: string;
  /** Ways out, at the foot of every page. */
  footer?: { label: string; address: string }[];
}
