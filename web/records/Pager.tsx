import { ChevronLeft, ChevronRight } from 'lucide-react';
import type { ListAnswer } from '../client/portal';
import { useListState } from '../place/place';
import { Button } from '../ui/Button';

/** How many there are, and the way to the others. */
export function Pager({ section, answer, noun }: { section: string; answer: ListAnswer; noun: string }) {
  const { turn } = useListState(section);
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm text-soft">
      <span aria-live="polite">
        {answer.records.length === answer.total
          ? `${answer.total.toLocaleString()} in all`
          : `${answer.records.length} of ${answer.total.toLocaleString()} ${noun}`}
      </span>
      {(answer.next || answer.previous) && (
        <span className="ml-auto flex gap-2">
          <Button small disabled={!answer.previous} onClick={() => turn({ after: '', before: answer.previous! })}>
            <ChevronLeft size={15} aria-hidden /> Back
          </Button>
          <Button small disabled={!answer.next} onClick={() => turn({ before: '', after: answer.next! })}>
            Further <ChevronRight size={15} aria-hidden />
          </Button>
        </span>
      )}
    </div>
  );
}
