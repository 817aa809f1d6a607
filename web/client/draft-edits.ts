import { useCallback } from 'react';
import { useMutation, useQueryClient, type QueryClient } from '@tanstack/react-query';
import jsonPatch from 'fast-json-patch';
import type { PortalDefinition } from '../../core/definition/definition';
import { allRecords, bench, isSeenBy } from './bench';
import { problemText, ServerProblem } from './http';
import { enqueue, portalKey, type DraftState, type PortalState } from './draft';

export type EditDraft = (label: string, recipe: (draft: PortalDefinition) => void) => Promise<string | null>;

/**
 * Edits the draft: the recipe changes a copy, the difference goes to the server as a patch. Gives null, or the sentence
 * that says why it was refused; the draft is then as the server has it.
 */
export function useEditDraft(slug: string): EditDraft {
  const client = useQueryClient();
  return useCallback(
    (label, recipe) =>
      enqueue(slug, async () => {
        const before = client.getQueryData<PortalState>(portalKey(slug));
        if (!before) return 'The draft is not loaded yet. Try again.';
        const after = structuredClone(before.draft);
        recipe(after);
        const patch = jsonPatch.compare(before.draft, after);
        if (patch.length === 0) return null;
        // What was asked before this edit must not come back over it.
        await client.cancelQueries({ queryKey: portalKey(slug) });
        client.setQueryData<PortalState>(portalKey(slug), { ...before, draft: after });
        try {
          take(client, slug, await bench(slug)('PATCH /draft', { body: { revision: before.revision, label, patch } }));
          return null;
        } catch (error) {
          client.setQueryData<PortalState>(portalKey(slug), before);
          await client.invalidateQueries({ queryKey: portalKey(slug) });
          return draftFault(error);
        }
      }),
    [client, slug],
  );
}

function draftFault(error: unknown): string {
  const faults =
    error instanceof ServerProblem ? (error.body.faults as { place: string; reason: string }[] | undefined) : undefined;
  return faults?.length
    ? faults.map(({ place, reason }) => `${place.slice(1).replaceAll('/', ', ')}: ${reason}`).join('; ')
    : problemText(error);
}

export function useStepDraft(slug: string) {
  const client = useQueryClient();
  return useCallback(
    (step: 'undo' | 'redo') =>
      enqueue(slug, async () => {
        try {
          take(client, slug, await bench(slug)(`POST /draft/${step}`));
          return null;
        } catch (error) {
          return problemText(error);
        }
      }),
    [client, slug],
  );
}

export function useApplyDefinition(slug: string) {
  const client = useQueryClient();
  return useMutation({
    // With the revision that was looked at, so that another builder's change is not written over.
    mutationFn: ({ definition, revision }: { definition: unknown; revision: number }) =>
      bench(slug)('PUT /definition', { query: { revision }, body: definition }),
    onSuccess: (draft) => take(client, slug, draft),
  });
}

function take(client: QueryClient, slug: string, draft: DraftState): void {
  client.setQueryData<PortalState>(portalKey(slug), (state) => state && { ...state, ...draft, changes: state.changes });
  void client.invalidateQueries({ queryKey: portalKey(slug) });
  void client.invalidateQueries({
    // What tells records apart and their ceilings stand in the draft: rows that were asked a moment ago may be without.
    predicate: ({ queryKey: [base] }) => isSeenBy(slug, base) || base === allRecords(slug),
  });
}
