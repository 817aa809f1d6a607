import { QueryObserver } from '@tanstack/react-query';
import { expect, it } from 'vitest';
import { makeQueryClient } from './query';

it('what is said to hold no longer is asked again, also where the first answer is still under way', async () => {
  const client = makeQueryClient();
  const asked: ((value: string) => void)[] = [];
  const queryFn = () => new Promise<string>((resolve) => asked.push(resolve));
  const observer = new QueryObserver(client, { queryKey: ['rows'], queryFn });
  const faults: unknown[] = [];
  const told = new Promise<string>((resolve) => {
    observer.subscribe(({ data, error }) => {
      if (error) faults.push(error);
      if (data !== undefined) resolve(data);
    });
  });
  expect(asked.length).toBe(1);
  const anew = client.invalidateQueries({ queryKey: ['rows'] });
  asked[0]!('before the edit');
  expect(asked.length).toBe(2);
  asked[1]!('after it');
  await anew;
  expect([await told, client.getQueryData(['rows']), faults]).toEqual(['after it', 'after it', []]);
  client.clear();
});
