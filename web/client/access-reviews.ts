import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { BenchApi } from '../../server/api';
import { bench, benchAddress } from './bench';

export type ReviewTold = BenchApi['GET /access-reviews/:review']['answer'];
export type ReviewLineTold = ReviewTold['lines'][number];

const keyOf = (slug: string) => ['builder', slug, 'access-reviews'];

export function useReviews(slug: string) {
  return useQuery({ queryKey: keyOf(slug), queryFn: () => bench(slug)('GET /access-reviews') });
}

export function useReview(slug: string, review: number) {
  return useQuery({
    queryKey: [...keyOf(slug), review],
    queryFn: () => bench(slug)('GET /access-reviews/:review', { params: { review } }),
  });
}

export const reviewFile = (slug: string, review: number): string =>
  benchAddress(slug)('GET /access-reviews/:review/file', { params: { review } });

/** Sends a review to a colleague, and signs its lines. */
export function useReviewing(slug: string) {
  const client = useQueryClient();
  const done = { onSuccess: () => client.invalidateQueries({ queryKey: keyOf(slug) }) };
  return {
    begin: useMutation({
      mutationFn: (builder: number) => bench(slug)('POST /access-reviews', { body: { builder } }),
      ...done,
    }),
    sign: useMutation({
      mutationFn: ({
        review,
        line,
        ...body
      }: {
        review: number;
        line: number;
        says: 'right' | 'wrong';
        remark: string;
      }) => bench(slug)('PUT /access-reviews/:review/lines/:line', { params: { review, line }, body }),
      ...done,
    }),
  };
}
