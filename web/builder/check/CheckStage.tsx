import { Link, useSearchParams } from 'react-router';
import { mendsOf } from '../../../core/check/mends';
import type { Finding } from '../../../core/check/findings';
import { problemText } from '../../client/http';
import { useFindings } from '../../client/builder';
import { Button, buttonLook } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, type BenchState } from '../bench-context';
import { StageFrame, StageHead } from '../StageFrame';

const groups: { severity: Finding['severity']; title: string }[] = [{ severity: 'leak', title: 'May show or allow too much' }, { severity: 'broken', title: 'Does not work as meant' }, { severity: 'slow', title: 'Works, at a price' }];

/** What the automatic check holds against the draft; each finding names the place and leads there. */
export default function CheckStage() {
  const { slug, state, to } = useBench();
  const [params] = useSearchParams();
  const findings = useFindings(slug, state.revision);
  const all = findings.data?.findings ?? [];
  const kinds = [...new Set(all.map((finding) => finding.kind))];
  const kind = params.get('kind');
  const shown = all.filter((finding) => !kind || finding.kind === kind);
  const items = [
    { key: 'all', label: 'All findings', aside: all.length, to: to('check'), current: kind === null },
    ...kinds.map((each) => ({ key: each, label: each, aside: all.filter((finding) => finding.kind === each).length, to: to('check', null, { kind: each }), current: kind === each })),
  ];
  return (
    <StageFrame title="Findings" groups={[{ title: 'Findings', items }]}>
      <StageHead title="What the check found" />
      <div className="grid gap-5 p-4">
        {findings.isPending && <Skeleton />}
        {findings.isError && <Notice kind="fault">{problemText(findings.error)}</Notice>}
        {findings.data && all.length === 0 && <Notice kind="say">Nothing found in the draft: every filter works, no table is read by everyone, rosters are sound.</Notice>}
        {groups.map((group) => {
          const inGroup = shown.filter((finding) => finding.severity === group.severity);
          return inGroup.length > 0 && (
            <section key={group.severity} className="grid gap-2">
              <h2>{group.title}</h2>
              <ul className="grid gap-2">{inGroup.map((finding) => <FindingLine key={finding.id} finding={finding} to={to} />)}</ul>
            </section>
          );
        })}
      </div>
    </StageFrame>
  );
}

function FindingLine({ finding, to }: { finding: Finding; to: BenchState['to'] }) {
  const { draft, catalogue, edit } = useBench();
  const { stage, table, role, column, page } = finding.place;
  const query = { ...(role ? { role } : {}), ...(column ? { column } : {}) };
  const mends = mendsOf(finding, draft, catalogue);
  return (
    <li className={`grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-4 rounded-stone border border-line border-l-4 px-4 py-3 ${finding.severity === 'leak' ? 'border-l-iron' : 'border-l-ochre-fill'}`}>
      <div><p className="font-semibold break-words">{finding.title}</p><p className="text-soft">{finding.why}</p>
        {mends.length > 0 && <div className="mt-1.5 flex flex-wrap gap-1.5">{mends.map((mend) => <Button key={mend.words} small onClick={() => void edit(`Mend: ${mend.words}`.slice(0, 200), mend.change)}>{mend.words}<span className="sr-only"> ({finding.title})</span></Button>)}</div>}</div>
      <Link to={to(stage, page ?? table ?? null, query)} className={buttonLook('plain', true)}>Go there<span className="sr-only">: {finding.title}</span></Link>
    </li>
  );
}
