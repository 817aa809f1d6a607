import { yesNo } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import type { RequestsSection } from './spec';

/** Whether this person answers requests at all. */
export interface RequestsTold {
  open: boolean;
}

declare module '../serve' {
  interface SectionTold {
    requests: RequestsTold;
  }
}

export const serve: SectionServe<RequestsSection, RequestsTold> = {
  tell: ({ definition, person }) =>
    Promise.resolve({
      open: (definition.signUps ?? []).some(
        ({ approver }) => approver !== undefined && person.roles.includes(approver),
      ),
    }),
  told: { open: yesNo },
};
