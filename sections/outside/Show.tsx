import { ExternalLink } from 'lucide-react';
import { Notice } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

const heightLooks = { low: 'h-60', middle: 'h-100', high: 'h-160' } as const;

/**
 * Somebody else's page. Its frame may run and send forms of its own, and neither reach this page, nor lead it away, nor
 * be told where it stands.
 */
export default function OutsideShow({ section: { address, shows, height, title } }: ShowProps<'outside'>) {
  if (address === '') return null;
  const host = new URL(address).host;
  // One of our own pages in a frame could reach around it.
  if (host === location.host) return <Notice kind="warn">A page of this site is not shown within another.</Notice>;
  const called = shows || title || host;
  return (
    <figure className="grid gap-1">
      <iframe
        src={address}
        title={called}
        sandbox="allow-scripts allow-forms allow-popups allow-popups-to-escape-sandbox allow-same-origin"
        referrerPolicy="no-referrer"
        loading="lazy"
        allow=""
        className={`w-full rounded-stone border border-line bg-paper ${heightLooks[height]}`}
      />
      <figcaption className="text-sm text-soft">
        From{' '}
        <a href={address} target="_blank" rel="noreferrer" className="inline-flex items-center gap-1">
          {host}
          <ExternalLink size={13} aria-label="opens beside the portal" />
        </a>
      </figcaption>
    </figure>
  );
}
