/** Every kind of section, a line each: its folder has the rest. */
export * as bring from './bring/kind';
export * as buttons from './buttons/kind';
export * as cards from './cards/kind';
export * as chart from './chart/kind';
export * as figure from './figure/kind';
export * as form from './form/kind';
export * as handover from './handover/kind';
export * as list from './list/kind';
export * as outside from './outside/kind';
export * as people from './people/kind';
export * as record from './record/kind';
export * as requests from './requests/kind';
export * as text from './text/kind';
