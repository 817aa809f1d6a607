import { ExternalLink } from 'lucide-react';
import { DoorCard } from './SignIn';

/** What stands at the door within a page of another site: the way to the portal's own window. */
export default function OwnWindow({ title }: { title: string }) {
  return (
    <DoorCard title={title} colour="var(--top)">
      <p>To sign in, open {title} in a window of its own.</p>
      <a
        href={window.location.href}
        target="_blank"
        rel="noreferrer"
        className="inline-flex min-h-8 items-center gap-1"
      >
        Open it <ExternalLink size={15} aria-hidden />
      </a>
    </DoorCard>
  );
}
