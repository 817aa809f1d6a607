import { counted } from '../../../core/text/counted';
import type { RefreshOutcome } from '../../client/refresh';
import { DataTable } from '../../ui/DataTable';
import { Notice } from '../../ui/Notice';
import { useNames } from '../bench/names';

const whats: Record<RefreshOutcome['people'][number]['what'], string> = {
  came: 'came',
  'came back': 'came back',
  changed: 'changed',
  'address changed': 'has another address: must prove it, and their sessions ended',
  went: 'went: their sessions ended',
};

const whys: Record<RefreshOutcome['rows'][number]['why'], string> = {
  'no e-mail': 'no e-mail',
  'not an e-mail': 'what stands there is no e-mail',
  'e-mail of several rows': 'the e-mail stands in several rows, so it would be open whose it is',
  'does not count': "the roster's condition doesn't hold",
};

/** What came of a refresh: who came, changed and went, and which rows make no member and why. */
export function RefreshOutcomeView({ outcome }: { outcome: RefreshOutcome }) {
  const names = useNames();
  const { came, changed, went, left, people, rows, unread } = outcome;
  const without = Object.values(left).reduce((sum, each) => sum + each, 0);
  return (
    <div className="grid gap-2">
      <Notice kind="say">
        {came.toLocaleString()} came, {changed.toLocaleString()} changed, {went.toLocaleString()} went;{' '}
        {counted(without, 'row')} {without === 1 ? 'makes' : 'make'} no member. No mail was sent.
      </Notice>
      {unread.length > 0 && (
        <Notice kind="warn">
          {unread.map((each) => names.table(each)).join(', ')} can&apos;t be read, so the members from there were left
          as they were. Choose the columns again under Rosters, or have the table brought back.
        </Notice>
      )}
      {people.length > 0 && (
        <details>
          <summary>What happened to whom</summary>
          <DataTable small label="What happened to whom" head={['Name', 'E-mail', 'What']}>
            {people.map((each, i) => (
              <tr key={i}>
                <td>{each.name}</td>
                <td className="break-all">{each.email}</td>
                <td>{whats[each.what]}</td>
              </tr>
            ))}
          </DataTable>
          <More shown={people.length} of={came + changed + went} />
        </details>
      )}
      {rows.length > 0 && (
        <details>
          <summary>Rows that make no member</summary>
          <DataTable small label="Rows that make no member" head={['Roster', 'Name', 'E-mail', 'Why']}>
            {rows.map((each, i) => (
              <tr key={i}>
                <td>{names.table(each.roster)}</td>
                <td>{each.name}</td>
                <td className="break-all">{each.email}</td>
                <td>{whys[each.why]}</td>
              </tr>
            ))}
          </DataTable>
          <More shown={rows.length} of={without} />
        </details>
      )}
    </div>
  );
}

function More({ shown, of }: { shown: number; of: number }) {
  if (of <= shown) return null;
  return (
    <p className="text-sm text-soft">
      The first {shown.toLocaleString()} of {of.toLocaleString()}.
    </p>
  );
}
