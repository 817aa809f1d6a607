import { readFileSync } from 'node:fs';
import { definitionFormat, definitionVersion, type PortalDefinition } from '../core/definition/definition';
import { demoAccess, demoFences, demoMasks, demoOwnerRules, demoRoles, demoRosters } from './access';
import { demoLifecycles, demoStamps } from './lifecycles';
import { demoActions, demoAddresses, demoBrought, type DemoOutsideAt } from './actions';
import { demoForms } from './forms';
import { demoAccepted, demoPromises } from './promises';
import { demoSignUps, demoStewards } from './stewards';
import { demoPages, demoSheets } from './pages';

/**
 * The demo's portal. `withAccess` false leaves Access and Pages empty, for building them by hand; `outside` is where
 * what it calls listens.
 */
export function demoDefinition(schema: string, withAccess = true, outside?: DemoOutsideAt): PortalDefinition {
  // Its own at each call: who changes one changes no other.
  return structuredClone<PortalDefinition>({
    format: definitionFormat,
    formatVersion: definitionVersion,
    portal: {
      slug: 'alder-fen',
      name: 'Alder Fen Wells',
      timeZone: 'Europe/London',
      colour: '#1f5f85',
      face: {
        logo: `data:image/png;base64,${readFileSync(new URL('./logo.png', import.meta.url)).toString('base64')}`,
        welcome: 'For owners of private wells, our samplers and labs.',
        footer: [
          { label: 'Drinking water in private wells', address: 'https://wells.example.org/' },
          { label: 'Write to the desk', address: 'mailto:desk@alder-fen.example.org' },
        ],
      },
    },
    source: { kind: 'mariadb', schema },
    tables: {
      owners: {
        columns: {
          phone: { dataClass: 'contact' },
          email: { label: 'E-mail', dataClass: 'contact' },
          postal_address: { dataClass: 'contact' },
          birth_date: { label: 'Born', dataClass: 'identity' },
          tax_number: { dataClass: 'identity' },
          iban: { label: 'Account', dataClass: 'financial' },
          contact_by: { label: 'Write to me by' },
        },
        ...(withAccess ? { rules: demoOwnerRules } : {}),
      },
      test_requests: { columns: { email: { kind: 'e-mail' } } },
      visits: { columns: { seal_photo: { kind: 'file' } } },
      doubts: { columns: { what: { label: 'What is it' }, words: { label: 'What you know' } } },
      samples: { columns: { temperature_c: { label: 'Temperature, °C' } } },
      wells: {
        history: { days: 3653 },
        columns: {
          depth_m: { label: 'Depth, m' },
          drilled_on: { label: 'Drilled' },
          latitude: { dataClass: 'location' },
          longitude: { dataClass: 'location' },
        },
      },
    },
    roles: demoRoles,
    rosters: demoRosters,
    access: withAccess ? demoAccess() : {},
    masks: withAccess ? demoMasks : [],
    ...(withAccess
      ? {
          fences: demoFences,
          stamps: demoStamps,
          lifecycles: demoLifecycles,
          actions: demoActions,
          addresses: demoAddresses(outside),
          brought: demoBrought,
          forms: demoForms,
          signUps: demoSignUps,
          stewards: demoStewards,
          promises: demoPromises,
          accepted: demoAccepted,
        }
      : {}),
    sheets: withAccess ? demoSheets : {},
    pages: withAccess ? demoPages : [],
  });
}
