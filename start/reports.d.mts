interface Report {
  passed: number;
  failed: number;
  told: string[];
}

export function vitestReport(path: string): Report;
export function browserReport(path: string): Report;
