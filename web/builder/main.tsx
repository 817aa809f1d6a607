import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { makeQueryClient } from '../client/query';
import { Skeleton } from '../ui/Notice';
import '../ui/look.css';
import { Gate } from './Gate';
import { Portals } from './Portals';

const Bench = lazy(() => import('./Bench'));
const bench = (
  <Gate>
    <Suspense
      fallback={
        <div className="p-6">
          <Skeleton />
        </div>
      }
    >
      <Bench />
    </Suspense>
  </Gate>
);

const router = createBrowserRouter([
  {
    path: '/',
    element: (
      <Gate>
        <Portals />
      </Gate>
    ),
  },
  { path: '/build/:slug', element: bench },
  { path: '/build/:slug/:stage', element: bench },
  { path: '/build/:slug/:stage/:object', element: bench },
]);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={makeQueryClient()}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
