import { counted } from '../../core/text/counted';
import { Link, useParams } from 'react-router';
import { useFindings, useMembers, usePortal } from '../client/builder';
import { usePromises } from '../client/access';
import { stages, type Stage } from './bench/bench-context';
import { hint } from '../ui/hint';

export const names: Record<Stage, string> = {
  data: 'Data',
  people: 'People',
  access: 'Access',
  pages: 'Pages',
  check: 'Check',
  publish: 'Publish',
};

/** The six stages as one course of stones, each with how much is there or what is wrong. */
export function Course({ current }: { current: Stage | null }) {
  const { slug = '' } = useParams();
  const portal = usePortal(slug).data!;
  const members = useMembers(slug, {}, 0, 1);
  const findings = useFindings(slug, portal.revision);
  const wrong = findings.data?.findings.length ?? 0;
  const promises = usePromises(slug, portal.revision, (portal.draft.promises ?? []).length > 0);
  const broken = promises.data?.outcomes.filter((outcome) => !outcome.kept).length ?? 0;
  const words: Record<Stage, { text: string; alarm?: boolean }> = {
    data: { text: counted(portal.catalogue.tables.length, 'table') },
    people: { text: members.data ? counted(members.data.total, 'member') : '…' },
    access: { text: counted(portal.draft.roles.length, 'role') },
    pages: { text: counted(portal.draft.pages.length, 'page') },
    check:
      broken > 0
        ? { text: `${counted(broken, 'promise')} broken`, alarm: true }
        : findings.data
          ? { text: wrong ? counted(wrong, 'finding') : 'nothing found', alarm: wrong > 0 }
          : { text: '…' },
    publish:
      broken > 0
        ? { text: `${counted(broken, 'promise')} broken`, alarm: true }
        : { text: portal.publishedVersion === null ? 'not yet' : `v${portal.publishedVersion} is live` },
  };
  return (
    <nav aria-label="Stages" className="flex min-w-0 flex-1 gap-0.5">
      {stages.map((stage, i) => (
        <Link
          key={stage}
          to={`/build/${slug}/${stage}`}
          aria-current={stage === current ? 'page' : undefined}
          {...hint(`Alt+${i + 1}`)}
          className={
            'min-w-0 flex-1 max-w-32 rounded-stone border px-2.5 py-1 no-underline transition-colors ' +
            (stage === current
              ? 'bg-night border-night text-white'
              : 'bg-sunk border-line text-ink hover:border-line-strong')
          }
        >
          <span className="block truncate font-head font-bold leading-tight">{names[stage]}</span>
          <span
            className={
              'block truncate text-xs ' +
              (words[stage].alarm && stage !== current
                ? 'font-bold text-iron'
                : stage === current
                  ? 'text-white opacity-85'
                  : 'text-soft')
            }
          >
            {words[stage].text}
          </span>
        </Link>
      ))}
    </nav>
  );
}
