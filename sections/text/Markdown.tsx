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
  // Whoever keeps the picture is not told of the page that asks for it.
  img: ({ src, alt }) => (
    <img src={src} alt={alt ?? ''} loading="lazy" referrerPolicy="no-referrer" className="max-w-full rounded-stone" />
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
