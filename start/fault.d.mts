export function faultWords(error: unknown): string;
