import type { MemberState } from '../../core/people/member-state';

/** What a state means, as people read it. */
export const stateWords: Record<MemberState, { label: string; means: string }> = {
  known: { label: 'Known', means: 'stands on a roster and was never written to' },
  invited: { label: 'Invited', means: 'was sent an invitation and has not been in yet' },
  active: { label: 'Active', means: 'has been in at least once' },
  suspended: { label: 'Suspended', means: 'may not come in, whatever the roster says' },
  gone: { label: 'Gone', means: 'stands on no roster any more' },
};

const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' });
const minute = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** A day as people read it; a dash where there is none. */
export const dayText = (moment: string | null): string => (moment === null ? '–' : day.format(new Date(moment)));

export const minuteText = (moment: string | null): string => (moment === null ? '–' : minute.format(new Date(moment)));
