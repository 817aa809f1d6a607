import type { PortalDefinition } from '../definition/definition';
import { mailKinds } from '../mail/mail-words';
import { mailProblem } from '../people/mails';
import type { Catalogue } from '../table/catalogue';
import type { Finding } from './finding';

/** Mails that can't be written: their words ask for what there isn't, or lack what they are for. */
export function findMails(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return mailKinds.flatMap((kind): Finding[] => {
    const words = definition.mails?.[kind];
    const problem = words && mailProblem(definition, catalogue, kind, words);
    return problem
      ? [
          {
            id: `mail/${kind}`,
            kind: 'mail does not work',
            severity: 'broken',
            place: {
              stage: 'people',
              screen: kind === 'invitation' || kind === 'reminder' ? '~invitations' : '~signing-in',
              what: kind,
            },
            title: `The mail "${kind}" can't be written: ${problem}`,
            why:
              kind === 'invitation' || kind === 'reminder'
                ? 'Until it can, none of its kind is sent. Mend its words under People, Invitations.'
                : 'Until it can, our own words are sent in its place. Mend them under People, Signing in.',
          },
        ]
      : [];
  });
}
