import Joi from 'joi';
import type { CheckedSpec } from '../../core/check/section-findings';
import { label } from '../../core/definition/name-schema';
import type { OnPage } from '../../core/definition/section-kinds';
import { isEmbedding } from '../../core/face/embedding';
import { faultSaid } from '../../core/refusals/say-fault';
import { isFramed } from './framed-address';

export const heights = ['low', 'middle', 'high'] as const;

export type FrameHeight = (typeof heights)[number];

/** A page of somebody else's, in a frame that is kept from everything around it. */
export interface OutsideSection extends OnPage {
  kind: 'outside';
  address: string;
  /** What is seen there, for those who don't see it. */
  shows: string;
  height: FrameHeight;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    outside: OutsideSection;
  }
}

export const spec: CheckedSpec<OutsideSection> = {
  schema: {
    kind: Joi.valid('outside').required(),
    address: Joi.string()
      .max(2000)
      .allow('')
      .custom((address: string, helpers) =>
        address === '' || isFramed(address)
          ? address
          : faultSaid(helpers, 'must be a whole address that begins with https:// and names nobody to sign in as'),
      )
      .required(),
    shows: label.allow('').required(),
    height: Joi.valid(...heights).required(),
  },
  asks: () => [],
  renamed: (section) => section,
  // A host with signs of its own in it could say more to the browser than where a frame is from.
  frames: ({ address }) => (address === '' ? [] : [new URL(address).origin].filter(isEmbedding)),
  findings: ({ id, title, address, shows }, page) => {
    const called = `${title ?? 'The outside page'} on ${page.title}`;
    const finding = (what: string, says: string, why: string) => ({
      id: `outside/${page.id}/${id}/${what}`,
      kind: 'section does not work' as const,
      severity: 'broken' as const,
      place: { stage: 'pages' as const, page: page.id },
      title: `${called} ${says}`,
      why,
    });
    if (address === '')
      return [finding('address', 'has no address yet', 'Its place is empty for everybody. Say which page it shows.')];
    return shows === ''
      ? [
          finding(
            'shows',
            "doesn't say what is seen there",
            'Those who hear the page rather than see it are told nothing of it. Say what it shows.',
          ),
        ]
      : [];
  },
};
