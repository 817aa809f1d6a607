import { CssSyntaxError, parse, type AtRule, type ChildNode, type Declaration, type Rule } from 'postcss';
import selectorParser, { type Selector } from 'postcss-selector-parser';
import valueParser from 'postcss-value-parser';

/** So long a stylesheet may be. */
const longestStylesheet = 20_000;

/** The class that a portal's root carries, in its own window and within the bench. */
const portalRoot = '.portal';

const takenRules = new Set(['media', 'supports', 'container']);
/** Functions that lead to an address, or run something (CSS Values 4 and 5, CSS Images 4, CSS Painting). */
const leading = new Set(['url', 'src', 'image', 'image-set', '-webkit-image-set', 'cross-fade', 'element', 'paint']);
const roots = new Set(['html', 'body', ':root', ':host']);
const parts = new Set(['tag', 'class', 'id', 'attribute', 'pseudo', 'combinator', 'universal', 'selector', 'string']);

/** Why a stylesheet isn't taken, and in which line. */
class NotTaken extends Error {
  constructor(at: { source?: { start?: { line: number } } | undefined } | number, why: string) {
    super(`in line ${(typeof at === 'number' ? at : at.source?.start?.line) ?? 1}: ${why}`);
  }
}

/**
 * The rules of a stylesheet, each below the portal's root, so that nothing around the portal is reached and nothing is
 * fetched. What stands for the whole page (`html`, `body`, `:root`) stands for that root. Throws `NotTaken`. Written
 * anew from what was understood: browsers and this parser may differ about anything that is odd, so that is refused.
 */
function held(text: string): string {
  // A new page, a sign that is none, and escapes are read differently from parser to parser, and nobody needs them.
  // oxlint-disable-next-line no-control-regex
  const odd = /[\\\0\f\uFFFD]/.exec(text);
  if (odd)
    throw new NotTaken(
      text.slice(0, odd.index).split('\n').length,
      odd[0] === '\\' ? 'a \\ is not taken; write the sign itself' : 'there is a sign that no text has',
    );
  try {
    return parse(text).nodes.map(heldNode).join('\n');
  } catch (error) {
    if (error instanceof CssSyntaxError)
      throw new NotTaken(
        error.line ?? 1,
        'this is no CSS that can be read; look for a bracket, a quote or a ; left out',
      );
    throw error;
  }
}

function heldNode(node: ChildNode): string {
  if (node.type === 'comment') return '';
  if (node.type === 'atrule') return heldAtRule(node);
  if (node.type === 'rule') return heldRule(node);
  throw new NotTaken(node, 'this stands in no rule');
}

function heldAtRule(node: AtRule): string {
  if (!takenRules.has(node.name) || !node.nodes)
    throw new NotTaken(node, `@${node.name} is not taken, only @media, @supports and @container are`);
  if (/["'{}\n]/.test(node.params)) throw new NotTaken(node, `what follows @${node.name} can't be read`);
  return `@${node.name} ${plainValue(node.params, node)}{${node.nodes.map(heldNode).join('')}}`;
}

function heldRule(node: Rule): string {
  let selectors: string;
  try {
    selectors = selectorParser((all) => all.each((selector) => holdSelector(selector, node))).processSync(
      node.selector,
      { lossless: false },
    );
  } catch (error) {
    if (error instanceof NotTaken) throw error;
    throw new NotTaken(node, `${node.selector.slice(0, 60)} can't be read as a selector`);
  }
  const declarations = node.nodes.map((each) => {
    if (each.type === 'comment') return '';
    if (each.type !== 'decl') throw new NotTaken(each, 'a rule within a rule is not taken; write each by itself');
    return heldDeclaration(each);
  });
  return `${selectors}{${declarations.join('')}}`;
}

function heldDeclaration(node: Declaration): string {
  const { prop, value, important } = node;
  if (!/^(--)?[a-z][\w-]*$|^-(webkit|moz|ms)-[a-z-]+$/i.test(prop) || /behavior|binding/i.test(prop))
    throw new NotTaken(node, `${prop.slice(0, 60)} is not taken`);
  return `${prop}:${plainValue(value, node)}${important ? '!important' : ''};`;
}

/** A value, once nothing in it leads anywhere. */
function plainValue(value: string, at: Declaration | AtRule): string {
  valueParser(value).walk((node) => {
    if (node.type === 'function' && leading.has(node.value.toLowerCase()))
      throw new NotTaken(at, `${node.value}() is not taken, since it leads to an address`);
    if (node.type === 'comment' || ('unclosed' in node && node.unclosed) || node.type === 'unicode-range')
      throw new NotTaken(at, `${value.slice(0, 60)} can't be read`);
    // Where a quote is left out, browsers end the text with its line.
    if (node.type === 'string' ? /[\r\n]/.test(node.value) : /["'{};@<]/.test(node.value) && node.type === 'word')
      throw new NotTaken(at, `${value.slice(0, 60)} can't be read`);
  });
  return value.replaceAll(/\s+/g, ' ');
}

/** Makes a selector one of the portal's root, or of something below it. */
function holdSelector(selector: Selector, at: Rule): void {
  selector.walk((node) => {
    if (node.type === 'nesting') throw new NotTaken(at, 'a rule within a rule is not taken; write each by itself');
    if (!parts.has(node.type) || /[\r\n"'{};@<]/.test(node.type === 'attribute' ? (node.value ?? '') : `${node.value}`))
      throw new NotTaken(at, `${at.selector.slice(0, 60)} can't be read as a selector`);
  });
  const [first] = selector.nodes;
  if (!first) throw new NotTaken(at, 'a selector is left out');
  if (first.type === 'combinator') throw new NotTaken(at, "a selector can't begin with a combinator");
  if (!roots.has(first.toString().trim().toLowerCase())) {
    selector.prepend(selectorParser.combinator({ value: ' ' }) as never);
    selector.prepend(selectorParser.className({ value: portalRoot.slice(1) }) as never);
    return;
  }
  const next = selector.nodes[1];
  if (next?.type === 'combinator' && !['', '>'].includes(next.value.trim()))
    throw new NotTaken(at, 'what stands beside the portal is not its own');
  if (next && (next.type === 'tag' || next.type === 'universal'))
    throw new NotTaken(at, `${at.selector.slice(0, 60)} can't be read as a selector`);
  first.replaceWith(selectorParser.className({ value: portalRoot.slice(1) }) as never);
}

/** Why a text is not taken for a portal's stylesheet, in words; null where it is. */
export function stylesheetProblem(text: string): string | null {
  if (text.length > longestStylesheet) return `is longer than ${longestStylesheet.toLocaleString('en')} signs`;
  try {
    held(text);
    return null;
  } catch (error) {
    if (error instanceof NotTaken) return error.message;
    throw error;
  }
}

/** A stylesheet that was taken, held below the portal's root. */
export const heldStylesheet = (text: string): string => held(text);
