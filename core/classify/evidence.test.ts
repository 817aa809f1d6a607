import { describe, expect, it } from 'vitest';
import { generateDemo } from '../../demo/generate';
import { column } from '../../test/wells';
import type { Value } from '../table/value';
import { suggestClass } from './evidence';

describe('data classes', () => {
  it("are suggested for the demo's personal columns with their evidence, and for no other", () => {
    const found: Record<string, string> = {};
    for (const table of generateDemo()) {
      table.columns.forEach((name, i) => {
        const suggestion = suggestClass(
          column(name, 'text'),
          table.rows.slice(0, 1000).map((row) => row[i] as Value),
        );
        if (suggestion) found[`${table.name}.${name}`] = suggestion.dataClass;
      });
    }
    expect(found).toEqual({
      'owners.email': 'contact',
      'owners.phone': 'contact',
      'owners.birth_date': 'identity',
      'owners.tax_number': 'identity',
      'owners.iban': 'financial',
      'owners.postal_address': 'contact',
      'lab_staff.email': 'contact',
      'samplers.email': 'contact',
      'samplers.phone': 'contact',
      'staff.email': 'contact',
      'wells.address': 'contact',
      'wells.postcode': 'location',
      'wells.latitude': 'location',
      'wells.longitude': 'location',
      'test_requests.email': 'contact',
      'test_requests.phone': 'contact',
    });
  });

  it('need nine of ten values, and a right check digit where there is one', () => {
    const ibans = [
      'GB29NWBK60161331926819',
      'DE89370400440532013000',
      'FR1420041010050500013M02606',
      'NO9386011117947',
    ];
    expect(suggestClass(column('account', 'text'), [...ibans, null, ''])).toEqual({
      column: 'account',
      dataClass: 'financial',
      what: 'account numbers (IBAN, check digits right)',
      found: 4,
      of: 4,
    });
    expect(suggestClass(column('account', 'text'), [...ibans, 'GB29NWBK60161331926810'])).toBeNull();
    expect(suggestClass(column('anything', 'text'), ['4111 1111 1111 1111', '378282246310005'])?.dataClass).toBe(
      'financial',
    );
    expect(suggestClass(column('anything', 'text'), ['01632 960 417'])).toBeNull();
    expect(suggestClass(column('latitude', 'number'), [53.1, -200])).toBeNull();
    expect(suggestClass(column('email', 'text'), [null])).toBeNull();
  });
});
