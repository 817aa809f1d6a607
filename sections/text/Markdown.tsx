import ReactMarkdown, { type Components } from 'react-markdown';

const under = {
  page: { h1: 'h2' },
  section: { h1: 'h3', h2: 'h3', h3: 'h4', h4: 'h5', h5: 'h6' },
} satisfies Record<string, Components>;

/** What leads elsewhere opens beside the portal. */
const links: Components = {
  a: ({ href, children }) =>
    href && /^\/(?![/\\])/.test(href) ? (
      <a href={href}>{children}</a>
    ) : (
      <a href={href} target="_blank" rel="noreferrer">
        {children}
      </a>
    ),
};

/**
 * Markdown as a page shows it; HTML in it is shown as it is written. Its headings stand under the page's, or under the
 * section's own. Fetched where a page has a text.
 */
export default function Markdown({ text, titled }: { text: string; titled: boolean }) {
  return (
    <div className="words grid max-w-160 gap-2">
      <ReactMarkdown components={{ ...links, ...(titled ? under.section : under.page) }}>{text}</ReactMarkdown>
    </div>
  );
}
