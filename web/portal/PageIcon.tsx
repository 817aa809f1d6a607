import {
  Banknote,
  Box,
  CalendarDays,
  ChartColumn,
  Clock,
  Droplet,
  FlaskConical,
  House,
  Key,
  Leaf,
  List,
  Mail,
  Map as MapShape,
  MapPin,
  NotebookPen,
  User,
  Users,
  Wrench,
  type LucideIcon,
} from 'lucide-react';
import type { PageIcon as Icon } from '../client/portal';

const icons: Record<Icon, LucideIcon> = {
  house: House,
  list: List,
  person: User,
  people: Users,
  place: MapPin,
  map: MapShape,
  calendar: CalendarDays,
  clock: Clock,
  chart: ChartColumn,
  money: Banknote,
  letter: Mail,
  note: NotebookPen,
  box: Box,
  drop: Droplet,
  flask: FlaskConical,
  wrench: Wrench,
  key: Key,
  leaf: Leaf,
};

/** The small picture of a page; its title stands beside it. */
export default function PageIcon({ icon, size = 16 }: { icon: Icon; size?: number }) {
  const Shape = icons[icon];
  return <Shape size={size} aria-hidden />;
}
