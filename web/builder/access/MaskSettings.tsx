import {
  maskAsked,
  maskSigns,
  maskStyleNames,
  maskTakes,
  type Mask,
  type MaskStyleName,
} from '../../../core/mask/mask';
import type { Column } from '../../../core/table/catalogue';
import { maskChoices } from './mask-choices';
import { Select } from '../../ui/Select';
import { hint } from '../../ui/hint';

/**
 * What stays of a value: the style and its settings. Only styles that take the column's type, where one column is
 * meant.
 */
export function MaskSettings({
  mask,
  column,
  onChange,
}: {
  mask: Mask;
  column: Column | null;
  onChange: (mask: Mask) => void;
}) {
  const number = (label: string, value: number, least: number, most: number, set: (value: number) => Mask) => (
    <label key={label} className="inline-flex items-center gap-1.5 text-sm">
      {label}
      <input
        type="number"
        min={least}
        max={most}
        className="field w-18"
        value={value}
        onChange={(event) => {
          const next = Number(event.target.value);
          if (event.target.value !== '' && Number.isInteger(next) && next >= least && next <= most) onChange(set(next));
        }}
      />
    </label>
  );
  const tick = (label: string, value: boolean, set: (value: boolean) => Mask) => (
    <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
      <input type="checkbox" checked={value} onChange={(event) => onChange(set(event.target.checked))} /> {label}
    </label>
  );
  return (
    <span className="inline-flex flex-wrap items-center gap-x-3 gap-y-1">
      <label className="inline-flex items-center gap-2">
        what stays
        <Select
          className="w-auto"
          value={mask.style}
          onPick={(picked) => onChange(maskChoices[picked as MaskStyleName].start)}
        >
          {maskStyleNames
            .filter((name) => !column || name === mask.style || maskTakes(maskChoices[name].start, column))
            .map((name) => (
              <option key={name} value={name}>
                {maskChoices[name].words}
              </option>
            ))}
        </Select>
      </label>
      {(mask.style === 'keep last' || mask.style === 'keep first') && (
        <>
          {number('how many', mask.count, 1, 20, (count) => ({ ...mask, count }))}
          {tick('signs between stay', mask.separators ?? false, (on) => withSeparators(mask, on))}
        </>
      )}
      {mask.style === 'keep both ends' && (
        <>
          {number('at the start', mask.first, 1, 20, (first) => ({ ...mask, first }))}
          {number('at the end', mask.last, 1, 20, (last) => ({ ...mask, last }))}
          {tick('signs between stay', mask.separators ?? false, (on) => withSeparators(mask, on))}
        </>
      )}
      {mask.style === 'card' && (
        <>
          {number('at the start', mask.first, 0, 6, (first) => ({ ...mask, first }))}
          {number('at the end', mask.last, 0, 4, (last) => ({ ...mask, last }))}
        </>
      )}
      {mask.style === 'area' && number('how many', mask.count, 1, 20, (count) => ({ ...mask, count }))}
      {mask.style === 'round' &&
        number('digits after the point', mask.digits, -6, 6, (digits) => ({ ...mask, digits }))}
      {mask.style === 'e-mail' && (
        <label className="inline-flex items-center gap-1.5 text-sm">
          with
          <Select
            className="w-auto"
            value={mask.show}
            onPick={(picked) => onChange({ ...mask, show: picked as 'domain' })}
          >
            <option value="first letter">the first letter</option>
            <option value="domain">the domain alone</option>
          </Select>
        </label>
      )}
      {mask.style === 'step' && <StepSetting mask={mask} onChange={onChange} />}
      {isSigned(mask) && (
        <label className="inline-flex items-center gap-1.5 text-sm">
          hidden by
          <Select
            className="w-auto"
            value={mask.sign ?? '•'}
            onPick={(picked) => {
              const { sign: _was, ...rest } = mask;
              onChange((picked === '•' ? rest : { ...rest, sign: picked }) as Mask);
            }}
          >
            {maskSigns.map((sign) => (
              <option key={sign}>{sign}</option>
            ))}
          </Select>
        </label>
      )}
    </span>
  );
}

type Separated = Extract<Mask, { separators?: boolean }>;

function withSeparators(mask: Separated, on: boolean): Mask {
  const { separators: _was, ...rest } = mask;
  return on ? { ...rest, separators: true } : rest;
}

const signed: readonly MaskStyleName[] = ['all', 'keep last', 'keep first', 'keep both ends', 'card', 'e-mail', 'area'];
const isSigned = (mask: Mask): mask is Extract<Mask, { sign?: string }> => signed.includes(mask.style);

function StepSetting({ mask, onChange }: { mask: Extract<Mask, { style: 'step' }>; onChange: (mask: Mask) => void }) {
  const text = mask.size ?? mask.edges!.join(' ');
  const commit = (typed: string) => {
    const parts = typed
      .trim()
      .split(/[\s;]+/)
      .filter(Boolean);
    if (!parts.every((part) => /^-?\d{1,18}(\.\d{1,6})?$/.test(part)) || parts.length === 0) return;
    if (parts.length === 1 && Number(parts[0]) > 0) onChange({ style: 'step', size: parts[0]! });
    else if (parts.every((part, i) => i === 0 || Number(part) > Number(parts[i - 1])))
      onChange({ style: 'step', edges: parts });
  };
  return (
    <label className="inline-flex items-center gap-1.5 text-sm">
      steps of, or at
      <input
        key={text}
        className="field w-36"
        defaultValue={text}
        {...hint('One number is the size of each step; several are their edges', true)}
        onBlur={(event) => commit(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') commit(event.currentTarget.value);
        }}
      />
    </label>
  );
}

/** What people can still do with a column masked so. */
export function maskLeaves(mask: Mask): string {
  const asked = maskAsked(mask);
  if (!asked) return 'Nobody can filter, sort, search or group by it.';
  if (asked.equalityOnly) return 'It can be filtered and grouped by for the same value; not sorted or searched.';
  return (
    'It can be filtered, sorted and grouped by what is left: ' +
    `${asked.type === 'whole number' || asked.type === 'decimal' ? 'a number' : 'a text'}; not by the value.`
  );
}
