import type { RequestsSection } from './spec';

export const word = 'Requests';
export const says = 'who asks to come in, to be let in';
export const called = () => word;
export const ofTable = false;
export const empty = (): Omit<RequestsSection, 'id'> => ({ kind: 'requests' });

/** Nothing is to be set: whoever is an approver gets theirs. */
export default function RequestsEdit() {
  return (
    <p className="text-soft">
      Approvers of sign-ups see here who asks to come in, and agree or not. Who approves is set under People, Sign-up.
    </p>
  );
}
