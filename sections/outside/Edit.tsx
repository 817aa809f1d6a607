import { useState } from 'react';
import { Field } from '../../web/ui/Field';
import { Select } from '../../web/ui/Select';
import type { EditProps } from '../edit';
import { isFramed } from './framed-address';
import type { FrameHeight, OutsideSection } from './spec';

export const word = 'Outside page';
export const says = 'a page of somebody else, in a frame';
export const called = ({ title, address }: OutsideSection) =>
  title ?? (address === '' ? 'Outside page' : `Page of ${new URL(address).host}`);
export const ofTable = false;
export const empty = (): Omit<OutsideSection, 'id'> => ({
  kind: 'outside',
  address: '',
  shows: '',
  height: 'middle',
});

const heights: FrameHeight[] = ['low', 'middle', 'high'];

/** Which page it is, what is seen there, and how high it stands. */
export default function OutsideEdit({ page, section, onChange }: EditProps<'outside'>) {
  const { address, shows, height } = section;
  const [fault, setFault] = useState<string | null>(null);
  return (
    <div className="flex flex-wrap items-start gap-3">
      <Field label="Address of the page" hint="Pages that forbid it stay empty in a frame" fault={fault}>
        {(ids) => (
          <input
            className="field w-96 max-w-full"
            maxLength={2000}
            placeholder="https://"
            {...ids}
            key={address}
            defaultValue={address}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              if (typed !== '' && !isFramed(typed)) {
                setFault('Write a whole address that begins with https://');
                return;
              }
              setFault(null);
              if (typed !== address)
                void onChange(`Choose the outside page of ${page.title}`, (next) => {
                  next.address = typed;
                }).then(setFault);
            }}
          />
        )}
      </Field>
      <Field label="What is seen there" hint="Told to those who hear the page">
        {(ids) => (
          <input
            className="field w-72"
            maxLength={120}
            {...ids}
            key={shows}
            defaultValue={shows}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              if (typed !== shows)
                void onChange(`Say what is seen on ${page.title}`, (next) => {
                  next.shows = typed;
                });
            }}
          />
        )}
      </Field>
      <Field label="Height">
        {(ids) => (
          <Select
            {...ids}
            value={height}
            onPick={(picked) =>
              void onChange(`Set the height of the outside page of ${page.title}`, (next) => {
                next.height = picked as FrameHeight;
              })
            }
          >
            {heights.map((each) => (
              <option key={each} value={each}>
                {each}
              </option>
            ))}
          </Select>
        )}
      </Field>
    </div>
  );
}
