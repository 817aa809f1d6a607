import { Question } from '../ui/Question';

/** Asked before a page is left on which something was typed and not saved. */
export default function LeaveQuestion({ onStay, onLeave }: { onStay: () => void; onLeave: () => void }) {
  return (
    <Question
      open
      title="Leave without saving?"
      says="What you changed in this record is not saved yet."
      keep="Stay here"
      go="Leave and lose it"
      onKeep={onStay}
      onGo={onLeave}
    />
  );
}
