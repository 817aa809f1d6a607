import { form, listOf, said } from '../http/answers';
import { readSetting } from '../store/store';
import type { Doorway } from './doorway';

/** Whom the demo lets in, with the password that they share. */
export interface DemoPeople {
  people: { email: string; name: string; role: string }[];
  password: string;
}

export const demoPeople = form<DemoPeople>({
  people: listOf(form<DemoPeople['people'][number]>({ email: said, name: said, role: said })),
  password: said,
});

/** Whom the demo lets in at a door, where it is loaded. */
export async function demoAt({ portalId, key }: Doorway): Promise<DemoPeople | null> {
  const kept = await readSetting('demo');
  if (kept === null) return null;
  const { builder, members } = JSON.parse(kept) as { builder: DemoPeople; members: Record<string, DemoPeople> };
  return (portalId === null ? builder : members[key]) ?? null;
}
