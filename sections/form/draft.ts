import { useEffect, useState } from 'react';
import type { Typed } from './entered';

/**
 * What was typed and not sent yet stays on the device: for those who are signed in until it is sent, for whoever is
 * not as long as the tab is open.
 */
export function useDraft(key: string, isVisitor: boolean, first: Typed) {
  const [typed, setTyped] = useState<Typed>(() => readDraft(key, isVisitor) ?? first);
  const [isKept] = useState(() => readDraft(key, isVisitor) !== null);
  const isDirty = Object.keys({ ...first, ...typed }).some((column) => (typed[column] ?? '') !== (first[column] ?? ''));
  useEffect(() => {
    const store = storeOf(isVisitor);
    if (isDirty) store?.setItem(key, JSON.stringify(typed));
    else store?.removeItem(key);
  }, [key, isVisitor, isDirty, typed]);
  return { typed, setTyped, isDirty, isKept };
}

function storeOf(isVisitor: boolean): Storage | null {
  try {
    return isVisitor ? sessionStorage : localStorage;
  } catch {
    return null;
  }
}

function readDraft(key: string, isVisitor: boolean): Typed | null {
  try {
    const kept: unknown = JSON.parse(storeOf(isVisitor)?.getItem(key) ?? 'null');
    if (typeof kept !== 'object' || kept === null) return null;
    return Object.fromEntries(Object.entries(kept).filter(([, text]) => typeof text === 'string')) as Typed;
  } catch {
    return null;
  }
}
