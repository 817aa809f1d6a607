import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { makeQueryClient } from '../client/query';
import '../ui/look.css';
import { PortalDoor } from './PortalDoor';

const Hints = lazy(() => import('../ui/Hints'));

const router = createBrowserRouter([{ path: '/p/:slug/:page?/:section?/:record?', element: <PortalDoor /> }]);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={makeQueryClient()}>
      <RouterProvider router={router} />
    </QueryClientProvider>
    <Suspense>
      <Hints />
    </Suspense>
  </StrictMode>,
);
