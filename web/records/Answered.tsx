import type { ReactNode } from 'react';
import type { UseQueryResult } from '@tanstack/react-query';
import { problemText, ServerProblem } from '../client/http';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';

/**
 * What was asked for, once it is there; until then its shape, or what went wrong with a way to try again. What was
 * there before a fault stays, and what is typed in it.
 */
export function Answered<T>({
  answer,
  lines,
  waiting,
  children,
}: {
  answer: UseQueryResult<T>;
  /** How many lines it is likely to take. */
  lines: number;
  /** What stands there until then, where its shape is known. */
  waiting?: ReactNode;
  children: (data: T) => ReactNode;
}) {
  return (
    <>
      <Unanswered answer={answer} />
      {answer.data === undefined ? !answer.isError && (waiting ?? <Skeleton lines={lines} />) : children(answer.data)}
    </>
  );
}

/** In the place of a section: its records can't be reached now, or nothing of them is open to this person. */
export function NothingOf({ noun, away }: { noun: string; away: boolean }) {
  return away ? (
    <Notice kind="warn">The place that holds {noun} can&apos;t be reached at the moment. Try again later.</Notice>
  ) : (
    <Notice kind="say">Nothing of {noun} is open to you here.</Notice>
  );
}

/**
 * What went wrong with a question. An address may ask by a column that is gone, which the server calls by its raw name;
 * so it may where it `arranges` a list.
 */
export function askedText(error: unknown, arranges = false): string {
  const type = error instanceof ServerProblem ? error.type : null;
  return type === 'condition' || (arranges && type === 'bad-question')
    ? "What this is narrowed or sorted by isn't here any more."
    : problemText(error);
}

/** What went wrong with a question, with a way to ask it again; nothing where nothing did. */
export function Unanswered({ answer }: { answer: Pick<UseQueryResult, 'isError' | 'error' | 'refetch'> }) {
  if (!answer.isError) return null;
  return (
    <Notice
      kind="fault"
      action={
        <Button small onClick={() => void answer.refetch()}>
          Try again
        </Button>
      }
    >
      {askedText(answer.error)}
    </Notice>
  );
}
