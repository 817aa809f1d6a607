import { ArrowRight, ExternalLink, Mail, MousePointerClick, Phone } from 'lucide-react';
import { useAction } from '../../web/client/actions';
import { ActionButton } from '../../web/records/ActionButtons';
import { pageSpot, SpotLink, usePlace } from '../../web/place/place';
import type { ToldButton } from './serve';
import type { ShowProps } from '../show';

const look =
  'flex min-h-14 items-center gap-3 rounded-stone border border-line-strong bg-paper px-4 py-2 text-left text-ink ' +
  'no-underline hover:border-water hover:bg-water-wash';

/** Ways on and what can be done by oneself, each as a button with what it is for. */
export default function ButtonsShow({ section }: ShowProps<'buttons'>) {
  if (section.buttons.length === 0) return null;
  return (
    <ul className="grid gap-2 @min-[560px]:grid-cols-2 @min-[900px]:grid-cols-3">
      {section.buttons.map((button, i) => (
        <li key={i} className="grid">
          <OneButton {...button} />
        </li>
      ))}
    </ul>
  );
}

function OneButton({ label, words, to }: ToldButton) {
  if ('action' in to) return <Press label={label} {...(words ? { words } : {})} {...to} />;
  const inside = <Says label={label} {...(words ? { words } : {})} />;
  if ('page' in to)
    return (
      <SpotLink to={pageSpot(to.page)} className={look}>
        {inside}
        <ArrowRight size={18} aria-hidden className="text-water" />
      </SpotLink>
    );
  return (
    <a href={to.address} className={look} {...(isElsewhere(to.address) ? elsewhere : {})}>
      {inside}
      <Sign address={to.address} />
    </a>
  );
}

function Says({ label, words }: { label: string; words?: string }) {
  return (
    <span className="grid min-w-0 flex-1">
      <span className="font-semibold">{label}</span>
      {words && <span className="text-sm text-soft">{words}</span>}
    </span>
  );
}

/** An action with whoever presses. */
function Press({
  label,
  words,
  action: id,
  record,
}: { label: string; words?: string } & Extract<ToldButton['to'], { action: string }>) {
  const action = useAction(usePlace().base, id);
  if (!action) return null;
  return (
    <ActionButton action={action} on={{ record: { ...record, id: record.id! } }} called={null} className={look}>
      <Says label={label} {...(words ? { words } : {})} />
      <MousePointerClick size={18} aria-hidden className="text-water" />
    </ActionButton>
  );
}

const isElsewhere = (address: string) => /^https?:/i.test(address);
const elsewhere = { target: '_blank', rel: 'noreferrer' };

function Sign({ address }: { address: string }) {
  if (/^mailto:/i.test(address)) return <Mail size={18} aria-hidden className="text-water" />;
  if (/^tel:/i.test(address)) return <Phone size={18} aria-hidden className="text-water" />;
  return <ExternalLink size={18} aria-label="opens beside the portal" className="text-water" />;
}
