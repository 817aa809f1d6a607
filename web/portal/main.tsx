import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter, RouterProvider, useParams } from 'react-router';
import { makeQueryClient } from '../client/query';
import '../ui/look.css';
import { PortalDoor } from './PortalDoor';

const BesidePages = lazy(() => import('../ui/BesidePages'));
const NothingHere = lazy(() => import('../ui/NothingHere').then((part) => ({ default: part.NothingHere })));

const router = createBrowserRouter([
  { path: '/p/:slug/:page?/:section?/:record?', element: <PortalDoor /> },
  { path: '/p/:slug/*', element: <Nowhere /> },
]);

/** An address with more in it than any of the portal has. */
function Nowhere() {
  const { slug } = useParams();
  return (
    <Suspense>
      <NothingHere to={`/p/${slug}`} back="To the first page" />
    </Suspense>
  );
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={makeQueryClient()}>
      <RouterProvider router={router} />
    </QueryClientProvider>
    <Suspense>
      <BesidePages />
    </Suspense>
  </StrictMode>,
);
