import { ArrowRight, ExternalLink, Mail, Phone } from 'lucide-react';
import { pageSpot, SpotLink } from '../../web/place/place';
import type { ShowProps } from '../show';

const look =
  'flex min-h-14 items-center gap-3 rounded-stone border border-line-strong bg-paper px-4 py-2 text-ink ' +
  'no-underline hover:border-water hover:bg-water-wash';

/** Ways on, each as a button with what it is for. */
export default function ButtonsShow({ section }: ShowProps<'buttons'>) {
  if (section.buttons.length === 0) return null;
  return (
    <ul className="grid gap-2 @min-[560px]:grid-cols-2 @min-[900px]:grid-cols-3">
      {section.buttons.map(({ label, words, to }, i) => {
        const inside = (
          <span className="grid min-w-0 flex-1">
            <span className="font-semibold">{label}</span>
            {words && <span className="text-sm text-soft">{words}</span>}
          </span>
        );
        return (
          <li key={i} className="grid">
            {'page' in to ? (
              <SpotLink to={pageSpot(to.page)} className={look}>
                {inside}
                <ArrowRight size={18} aria-hidden className="text-water" />
              </SpotLink>
            ) : (
              <a href={to.address} className={look} {...(isElsewhere(to.address) ? elsewhere : {})}>
                {inside}
                <Sign address={to.address} />
              </a>
            )}
          </li>
        );
      })}
    </ul>
  );
}

const isElsewhere = (address: string) => /^https?:/i.test(address);
const elsewhere = { target: '_blank', rel: 'noreferrer' };

function Sign({ address }: { address: string }) {
  if (/^mailto:/i.test(address)) return <Mail size={18} aria-hidden className="text-water" />;
  if (/^tel:/i.test(address)) return <Phone size={18} aria-hidden className="text-water" />;
  return <ExternalLink size={18} aria-label="opens beside the portal" className="text-water" />;
}
