import type { SetOff } from '../../../core/definition/action';

/** When an action is done by itself, in words: "when a record of visits is made". */
export function setOffWords(
  on: SetOff,
  table: string,
  moves: readonly { id: string; name: string }[],
  forms: readonly { id: string; title: string }[] = [],
): string {
  const record = `a record of ${table}`;
  switch (on.what) {
    case 'made':
      if (on.form === undefined) return `when ${record} is made`;
      return `when “${forms.find(({ id }) => id === on.form)?.title ?? 'a form that is gone'}” is sent`;
    case 'changed':
      return `when ${record} is changed`;
    case 'deleted':
      return `when ${record} is deleted`;
    case 'time':
      return `each day at ${on.at}`;
    case 'moved': {
      if (on.move === undefined) return `when ${record} is moved on`;
      return `when ${record} is moved by “${moves.find(({ id }) => id === on.move)?.name ?? 'a move that is gone'}”`;
    }
  }
}
