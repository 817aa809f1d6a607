import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { FilePreview, RefusedCell, TablePlan } from '../../server/imports/file-to-table';
import { askForm } from './http';

export type { FilePreview, RefusedCell };

const at = (slug: string) => `/builder/portals/${slug}/files`;

/** What a file would become. */
export function usePreviewFile(slug: string) {
  return useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append('file', file);
      return askForm<FilePreview>(`${at(slug)}/preview`, form);
    },
  });
}

/** Makes a table of a file; the stages then know it. */
export function useFileTable(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ file, plan }: { file: File; plan: TablePlan }) => {
      const form = new FormData();
      form.append('plan', JSON.stringify(plan));
      form.append('file', file);
      return askForm<{ rows: number }>(`${at(slug)}/table`, form);
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}
