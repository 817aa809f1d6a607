import { useId, useMemo } from 'react';
import {
  Area,
  AreaChart,
  Bar,
  BarChart,
  CartesianGrid,
  Cell as Slice,
  Line,
  LineChart,
  Pie,
  PieChart,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import { parseCondition } from '../../core/condition/parse';
import { printCondition } from '../../core/condition/print';
import type { Condition } from '../../core/condition/tree';
import type { Value } from '../../core/table/value';
import { useChart, type ChartAnswer } from '../../web/client/numbers';
import { useListState, usePlace } from '../../web/place/place';
import { Answered, NothingOf } from '../../web/records/Answered';
import { numberWords, shownNumber } from '../../web/records/numbers';
import { fillOf, lookOf, SeriesPatterns } from '../../web/ui/chart-looks';
import { DataTable } from '../../web/ui/DataTable';
import { Notice, Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';
import { drawn, groupFilter, type By, type Drawn, type Place } from './groups';

type ChartInfo = ShowProps<'chart'>['section'];

/** So many places are drawn, whatever there is; the table has them all. */
const mostDrawn = { bars: 60, shares: 12, lines: 400, areas: 400 };

/** Numbers drawn, with the same numbers as a table; a group opens its records in the list beside it. */
export default function ChartShow({ section }: ShowProps<'chart'>) {
  return <ChartOf section={section} />;
}

/** A chart of a page, or of a list by what `draw` says. */
export function ChartOf({ section, draw = '' }: ShowProps<'chart'> & { draw?: string }) {
  const { base, spot } = usePlace();
  const followed = useListState(section.follows ?? '');
  const { view, search, filter } = followed.state;
  const ready = section.open && !section.away && section.by !== null;
  const answer = useChart(base, spot.page, section.id, { view, search, filter, draw }, ready);
  const noun = section.label.toLowerCase();
  const { by } = section;
  if (section.away || !section.open || !by) return <NothingOf noun={noun} away={section.away === true} />;
  const says = `${numberWords(section)} by ${by.column.label.toLowerCase()}`;
  return (
    <figure
      className="grid gap-2 rounded-stone border border-line bg-paper px-4 py-3"
      aria-label={section.title ?? says}
    >
      <figcaption className="text-sm text-soft">{says}</figcaption>
      <Answered answer={answer} lines={6} waiting={<Waiting hasKey={section.series !== null} />}>
        {(groups) => <Numbers section={section} by={by} answer={groups} says={says} noun={noun} />}
      </Answered>
    </figure>
  );
}

/** As high as what comes. */
function Waiting({ hasKey }: { hasKey: boolean }) {
  return (
    <>
      {hasKey && <div className="text-sm">&nbsp;</div>}
      <div className="h-64 overflow-hidden">
        <Skeleton lines={9} />
      </div>
      <div className="text-sm">&nbsp;</div>
    </>
  );
}

function Numbers({
  section,
  by,
  answer,
  says,
  noun,
}: {
  section: ChartInfo;
  by: By;
  answer: ChartAnswer;
  says: string;
  noun: string;
}) {
  const { series } = section;
  const data = useMemo(() => drawn(answer, by, series), [answer, by, series]);
  const { narrow, state } = useListState(section.opens ?? '');
  if (answer.tooFew) return <Notice kind="say">There are too few {noun} to show numbers of them.</Notice>;
  if (data.places.length === 0) return <Notice kind="say">There are no {noun} to draw.</Notice>;
  const shownParts = mostDrawn[section.form];
  // What has no day has no place along the days.
  const isAlong = by.step !== null && section.form !== 'shares';
  const placed = isAlong ? data.places.filter(({ key }) => key !== null) : data.places;
  const some = placed.slice(0, shownParts);
  const opens = (place: Place, line: number): (() => void) | null => {
    if (section.opens === null) return null;
    const parts = [groupFilter(place.key, by)];
    if (section.series) parts.push(groupFilter(data.series[line]!.key, section.series));
    const [first, ...rest] = parts;
    if (!first || rest.includes(null)) return null;
    const before = section.follows !== null && state.filter !== '' ? [parseCondition(state.filter).condition] : [];
    const all = [...before, first, ...(rest as Condition[])].flatMap((each) =>
      each.kind === 'all' ? each.parts : [each],
    );
    return () => narrow({ filter: printCondition(all.length === 1 ? all[0]! : { kind: 'all', parts: all }) });
  };
  return (
    <>
      <Drawing section={section} data={{ ...data, places: some }} says={says} opens={opens} />
      {data.leftOut > 0 && (
        <p className="text-sm text-soft">{data.leftOut.toLocaleString()} hidden values are left out.</p>
      )}
      {some.length < data.places.length && (
        <p className="text-sm text-soft">
          {some.length < placed.length
            ? `${some.length} of ${data.places.length.toLocaleString()} are drawn; the table has them all.`
            : `What has nothing at “${by.column.label}” stands in the table alone.`}
        </p>
      )}
      <NumberTable section={section} by={by} data={data} says={says} opens={opens} />
    </>
  );
}

interface Parts {
  section: ChartInfo;
  data: Drawn;
  says: string;
  /** Finds the records of a group, where that can be done. */
  opens: (place: Place, line: number) => (() => void) | null;
}

const number = (value: Value | undefined): number | null =>
  value === null || value === undefined ? null : Number(value);

function Drawing({ section, data: { places, series }, says, opens }: Parts) {
  const id = useId().replaceAll(/[^\w-]/g, '');
  // Areas stand on each other, so what is not there is nothing; a line goes on over it.
  const nothing = section.form === 'areas' ? 0 : null;
  const rows = places.map((place) => ({
    label: place.label,
    ...Object.fromEntries(series.map((_, line) => [`n${line}`, number(place.values[line]) ?? nothing])),
  }));
  const open = (line: number) => (_: unknown, at: number) => opens(places[at]!, line)?.();
  const label = (line: number) => (series.length > 1 || section.series ? series[line]!.label : says);
  const canOpen = section.opens !== null ? 'cursor-pointer' : '';
  const told = (value: unknown, line: number): [string, string] => [shownNumber(section, value as Value), label(line)];
  const still = { isAnimationActive: false };
  const frame = {
    data: rows,
    accessibilityLayer: true,
    title: says,
    margin: { top: 8, right: 12, bottom: 0, left: 0 },
  };
  const axes = (
    <>
      <CartesianGrid stroke="var(--line)" vertical={false} />
      <XAxis dataKey="label" stroke="var(--soft)" tick={{ fontSize: 12 }} minTickGap={12} />
      <YAxis
        stroke="var(--soft)"
        tick={{ fontSize: 12 }}
        width={56}
        allowDecimals={section.measure !== 'count'}
        tickFormatter={(value: number) => value.toLocaleString()}
      />
      {section.line && (
        <ReferenceLine
          y={section.line.at}
          stroke="var(--iron)"
          strokeDasharray="4 4"
          ifOverflow="extendDomain"
          label={{ value: section.line.label, position: 'insideTopRight', fill: 'var(--iron)', fontSize: 12 }}
        />
      )}
      <Tooltip
        contentStyle={{ background: 'var(--paper)', border: '1px solid var(--line-strong)', color: 'var(--ink)' }}
        formatter={(value, _name, item) => told(value, Number(String(item.dataKey).slice(1)))}
        {...still}
      />
    </>
  );
  const lines = series.map((_, line) => ({ dataKey: `n${line}`, key: line, name: label(line), ...still }));
  return (
    <>
      {section.series && <Key id={id} isLines={section.form === 'lines'} labels={series.map((each) => each.label)} />}
      <div className="h-64">
        <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 600, height: 256 }}>
          {section.form === 'bars' ? (
            <BarChart {...frame}>
              <SeriesPatterns id={id} />
              {axes}
              {lines.map(({ key, ...line }) => (
                <Bar key={key} {...line} fill={fillOf(id, key)} className={canOpen} onClick={open(key)} />
              ))}
            </BarChart>
          ) : section.form === 'lines' ? (
            <LineChart {...frame}>
              {axes}
              {lines.map(({ key, ...line }) => (
                <Line
                  key={key}
                  {...line}
                  stroke={lookOf(key).colour}
                  strokeDasharray={lookOf(key).dash}
                  strokeWidth={2}
                  dot={places.length <= 40 && { strokeDasharray: 'none' }}
                  connectNulls
                />
              ))}
            </LineChart>
          ) : section.form === 'areas' ? (
            <AreaChart {...frame}>
              <SeriesPatterns id={id} />
              {axes}
              {lines.map(({ key, ...line }) => (
                <Area
                  key={key}
                  {...line}
                  stackId="all"
                  fillOpacity={0.85}
                  stroke={lookOf(key).colour}
                  fill={fillOf(id, key)}
                />
              ))}
            </AreaChart>
          ) : (
            <PieChart accessibilityLayer title={says}>
              <SeriesPatterns id={id} />
              <Pie
                data={rows}
                dataKey="n0"
                nameKey="label"
                className={canOpen}
                label={({ index }: { index?: number }) => places[index ?? 0]!.label}
                onClick={open(0)}
                {...still}
              >
                {places.map((place, at) => (
                  <Slice key={place.label} fill={fillOf(id, at)} stroke="var(--paper)" />
                ))}
              </Pie>
              <Tooltip formatter={(value) => shownNumber(section, value as Value)} {...still} />
            </PieChart>
          )}
        </ResponsiveContainer>
      </div>
    </>
  );
}

/** Which look is which series. */
function Key({ id, isLines, labels }: { id: string; isLines: boolean; labels: string[] }) {
  return (
    <ul className="flex flex-wrap gap-x-4 gap-y-1 text-sm" aria-hidden>
      {labels.map((label, line) => (
        <li key={label} className="inline-flex items-center gap-1.5">
          <svg width="22" height="12">
            {isLines ? (
              <path d="M0 6h22" stroke={lookOf(line).colour} strokeDasharray={lookOf(line).dash} strokeWidth="2" />
            ) : (
              <rect width="22" height="12" fill={fillOf(id, line)} />
            )}
          </svg>
          {label}
        </li>
      ))}
    </ul>
  );
}

/** The numbers themselves, for whoever reads them rather than looks at them. */
function NumberTable({ section, by, data: { places, series }, says, opens }: Parts & { by: By }) {
  return (
    <details>
      <summary className="w-fit cursor-pointer text-sm text-water">The numbers as a table</summary>
      <div className="max-h-96 overflow-auto pt-2">
        <DataTable
          label={`Numbers: ${says}`}
          small
          head={[by.column.label, ...series.map(({ label }) => (section.series ? label : numberWords(section)))]}
        >
          {places.map((place, at) => (
            <tr key={at}>
              <th scope="row" className="font-normal">
                {place.label}
              </th>
              {series.map(({ label }, line) => {
                const open = line in place.values ? opens(place, line) : null;
                const shown = line in place.values ? shownNumber(section, place.values[line]) : '–';
                return (
                  <td key={line} className="tabular-nums">
                    {open ? (
                      <button
                        type="button"
                        className="min-h-7 text-water underline"
                        aria-label={`${shown}: list those of ${place.label}${label ? `, ${label}` : ''}`}
                        onClick={open}
                      >
                        {shown}
                      </button>
                    ) : (
                      shown
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </DataTable>
      </div>
    </details>
  );
}
