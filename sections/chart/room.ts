import type { ShowProps } from '../show';

/** How high a chart stands, so that nothing below it moves when it comes: tabs are pressed meanwhile. */
export const room = ({ series }: ShowProps<'chart'>['section']): string => (series ? 'h-[22.9rem]' : 'h-[21.15rem]');
