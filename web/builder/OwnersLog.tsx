import { problemText } from '../client/http';
import { useOwnersLog } from '../client/owners';
import { Notice, Skeleton } from '../ui/Notice';
import { LogTable } from './LogTable';
import { OwnersPage } from './OwnersPage';

/** What owners changed that holds for every portal. */
export default function OwnersLog() {
  const log = useOwnersLog();
  return (
    <OwnersPage title="What owners changed" says="Of what holds for every portal; each portal has a log of its own.">
      {log.isPending && <Skeleton />}
      {log.isError && <Notice kind="fault">{problemText(log.error)}</Notice>}
      {log.data?.entries.length === 0 && <Notice kind="say">Nothing was changed yet.</Notice>}
      {log.data && log.data.entries.length > 0 && <LogTable entries={log.data.entries} />}
    </OwnersPage>
  );
}
