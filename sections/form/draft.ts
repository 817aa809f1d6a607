import { useEffect, useState } from 'react';
import type { Typed } from './entered';

type Keeps = 'device' | 'tab' | 'not';

/**
 * What was typed and not sent yet stays on the device: for those who are signed in until it is sent, for whoever is
 * not as long as the tab is open. What a builder tries as somebody else is kept nowhere.
 */
export function useDraft(key: string, keeps: Keeps, first: Typed) {
  const [typed, setTyped] = useState<Typed>(() => readDraft(key, keeps) ?? first);
  const [isKept] = useState(() => readDraft(key, keeps) !== null);
  const isDirty = Object.keys({ ...first, ...typed }).some((column) => (typed[column] ?? '') !== (first[column] ?? ''));
  useEffect(() => {
    const store = storeOf(keeps);
    if (isDirty) store?.setItem(key, JSON.stringify(typed));
    else store?.removeItem(key);
  }, [key, keeps, isDirty, typed]);
  return { typed, setTyped, isDirty, isKept };
}

function storeOf(keeps: Keeps): Storage | null {
  try {
    return keeps === 'tab' ? sessionStorage : keeps === 'device' ? localStorage : null;
  } catch {
    return null;
  }
}

function readDraft(key: string, keeps: Keeps): Typed | null {
  try {
    const kept: unknown = JSON.parse(storeOf(keeps)?.getItem(key) ?? 'null');
    if (typeof kept !== 'object' || kept === null) return null;
    return Object.fromEntries(Object.entries(kept).filter(([, text]) => typeof text === 'string')) as Typed;
  } catch {
    return null;
  }
}
