/**
 * Parametric values of Directive (EU) 2020/2184, Annex I: parts A (microbiological), B (chemical) and C (indicator).
 * The typical level and spread are invented; they only shape the demo's results.
 */
export interface Analyte {
  code: string;
  name: string;
  unit: string;
  low: number | null;
  limit: number;
  kind: 'chemical' | 'microbiological' | 'indicator';
  typical: number;
}

export const analytes: Analyte[] = [
  { code: 'NO3', name: 'Nitrate', unit: 'mg/l', low: null, limit: 50, kind: 'chemical', typical: 22 },
  { code: 'NO2', name: 'Nitrite', unit: 'mg/l', low: null, limit: 0.5, kind: 'chemical', typical: 0.05 },
  { code: 'AS', name: 'Arsenic', unit: 'µg/l', low: null, limit: 10, kind: 'chemical', typical: 2.5 },
  { code: 'PB', name: 'Lead', unit: 'µg/l', low: null, limit: 5, kind: 'chemical', typical: 1.1 },
  { code: 'F', name: 'Fluoride', unit: 'mg/l', low: null, limit: 1.5, kind: 'chemical', typical: 0.3 },
  { code: 'U', name: 'Uranium', unit: 'µg/l', low: null, limit: 30, kind: 'chemical', typical: 4 },
  { code: 'ECOLI', name: 'E. coli', unit: 'in 100 ml', low: null, limit: 0, kind: 'microbiological', typical: 0 },
  { code: 'CU', name: 'Copper', unit: 'mg/l', low: null, limit: 2, kind: 'chemical', typical: 0.2 },
  { code: 'NH4', name: 'Ammonium', unit: 'mg/l', low: null, limit: 0.5, kind: 'indicator', typical: 0.08 },
  { code: 'CL', name: 'Chloride', unit: 'mg/l', low: null, limit: 250, kind: 'indicator', typical: 60 },
  { code: 'SO4', name: 'Sulphate', unit: 'mg/l', low: null, limit: 250, kind: 'indicator', typical: 70 },
  { code: 'FE', name: 'Iron', unit: 'µg/l', low: null, limit: 200, kind: 'indicator', typical: 90 },
  { code: 'MN', name: 'Manganese', unit: 'µg/l', low: null, limit: 50, kind: 'indicator', typical: 18 },
  { code: 'NA', name: 'Sodium', unit: 'mg/l', low: null, limit: 200, kind: 'indicator', typical: 35 },
  { code: 'PH', name: 'pH', unit: 'pH', low: 6.5, limit: 9.5, kind: 'indicator', typical: 7.4 },
];
