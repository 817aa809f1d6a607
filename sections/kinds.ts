/** Every kind of section, a line each: its folder has the rest. */
export * as list from './list/kind';
export * as text from './text/kind';
