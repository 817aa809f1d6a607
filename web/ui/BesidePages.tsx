import { useEffect } from 'react';
import Hints from './Hints';
import { keepPressesSteady } from './steady-press';

/** What stands beside every page, and comes after it. */
export default function BesidePages() {
  useEffect(() => keepPressesSteady(document), []);
  return <Hints />;
}
