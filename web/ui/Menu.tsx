import { lazy, Suspense, useState } from 'react';
import type { MenuProps } from './menu-entries';

/** It comes with the first sign that somebody wants it: most pages are left without. */
const load = () => import('./MenuList');
const MenuList = lazy(load);

/** Things to do, below the button that opens them. */
export function Menu({ button, ...rest }: MenuProps) {
  const [wanted, setWanted] = useState(false);
  const here = (
    <button
      type="button"
      aria-haspopup="menu"
      aria-expanded={false}
      {...button}
      onPointerEnter={() => void load()}
      onFocus={() => void load()}
      onClick={() => setWanted(true)}
      onKeyDown={(event) => {
        if (event.key !== 'ArrowDown') return;
        event.preventDefault();
        setWanted(true);
      }}
    />
  );
  return wanted ? (
    <Suspense fallback={here}>
      <MenuList button={button} {...rest} />
    </Suspense>
  ) : (
    here
  );
}
