import { page, words } from '../page';
import type { ReceivedMail } from './received-mail';

/** All mails that came, the newest first. */
export function listPage(mails: readonly ReceivedMail[]): string {
  const rows = mails
    .toReversed()
    .map(
      ({ number, to, at, parsed }) =>
        `<tr><td>${words(to.join(', '))}</td><td><a href="/mail/${number}">${words(parsed.subject ?? '')}</a></td>` +
        `<td>${at.toISOString().slice(0, 19).replace('T', ' ')} UTC</td></tr>`,
    );
  const list =
    rows.length === 0
      ? '<p>No mail has come yet. Load this page again when you expect one.</p>'
      : '<table><thead><tr><th>To</th><th>Subject</th><th>Came</th></tr></thead>' +
        `<tbody>${rows.join('')}</tbody></table>`;
  return page('Mails of the demo', `<h1>Mails of the demo</h1><p>Nothing is delivered: all mail ends here.</p>${list}`);
}

/** One mail as its reader sees it. Its own marks are trusted no further than the page's policy lets them. */
export function mailPage({ to, parsed }: ReceivedMail): string {
  const body = typeof parsed.html === 'string' ? bodyOf(parsed.html) : `<pre>${words(parsed.text ?? '')}</pre>`;
  return page(
    parsed.subject ?? 'Mail',
    `<p><a href="/">All mails</a></p><h1>${words(parsed.subject ?? '')}</h1><dl><dt>From</dt>` +
      `<dd>${words(parsed.from?.text ?? '')}</dd><dt>To</dt><dd>${words(to.join(', '))}</dd></dl><main>${body}</main>`,
  );
}

const bodyOf = (html: string): string => /<body[^>]*>([\s\S]*)<\/body>/i.exec(html)?.[1] ?? html;
