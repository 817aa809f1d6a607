import { useMutation, useQueryClient } from '@tanstack/react-query';
import { bench, workplace, type BenchApi } from './bench';
import { ServerProblem, problemText } from './http';

export type ComparedDefinition = BenchApi['POST /definition/compare']['answer'];
export type DefinitionTold = ComparedDefinition['told'];

/** The document that a file holds; throws an error in words where it is none. */
export async function documentIn(file: File): Promise<unknown> {
  const text = await file.text();
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    throw new Error(`${file.name} is not JSON: ${problemText(error)}`, { cause: error });
  }
}

/** What is wrong with a document that was sent, a line each. */
export function documentFaults(error: unknown): string[] {
  const faults = error instanceof ServerProblem ? error.body.faults : undefined;
  return (
    (faults as { place: string; reason: string }[] | undefined)?.map(
      ({ place, reason }) => `${place || 'the document'}: ${reason}`,
    ) ?? [problemText(error)]
  );
}

/** What a definition is of, and where it has its records. */
export const useLookAtDefinition = () =>
  useMutation({ mutationFn: (body: unknown) => workplace('POST /definitions/look', { body }) });

/** The same, and what is other than in a portal's draft. */
export const useCompareDefinition = (slug: string) =>
  useMutation({ mutationFn: (body: unknown) => bench(slug)('POST /definition/compare', { body }) });

/** Makes a portal of a definition. */
export function useMakePortalFrom() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: unknown) => workplace('POST /portals/from-definition', { body }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', 'portals'] }),
  });
}
