import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import './app.css'
import { AsidePage } from './stations/bench/AsidePage'
import { BenchPage } from './stations/bench/BenchPage'
import { ChecksPage } from './stations/bench/ChecksPage'
import { HandPage } from './stations/bench/HandPage'
import { SetUpLane } from './stations/bench/SetUpLane'
import { SpotPage } from './stations/bench/SpotPage'
import { HeatPage } from './stations/runs/HeatPage'
import { ManyPage } from './stations/runs/ManyPage'
import { ReadPage } from './stations/runs/ReadPage'
import { RunPage } from './stations/runs/RunPage'
import { RunsPage } from './stations/runs/RunsPage'
import { SpotChecksPage } from './stations/runs/SpotChecksPage'
import { FindingsPage } from './stations/findings/FindingsPage'
import { ChargesPage } from './stations/packs/ChargesPage'
import { PackPlanPage } from './stations/packs/PackPlanPage'
import { PacksPage } from './stations/packs/PacksPage'
import { CardsPage } from './stations/plan/CardsPage'
import { EditPlan } from './stations/plan/EditPlan'
import { PlanPage } from './stations/plan/PlanPage'
import { KitPage } from './stations/shelf/KitPage'
import { ShelfPage } from './stations/shelf/ShelfPage'
import { TablePage } from './stations/versus/TablePage'
import { VersusPage } from './stations/versus/VersusPage'
import { JobsPage } from './ui/JobsPage'
import { PeoplePage } from './ui/PeoplePage'
import { SettingsProvider } from './reader/settings'
import { SignInPage } from './ui/SignInPage'
import { Shell } from './ui/Shell'
import { UndoProvider } from './ui/Undo'

const queries = new QueryClient({ defaultOptions: {
  // The bench stands in this house: it may be reached although the browser believes to be without a network.
  queries: { retry: 1, refetchOnWindowFocus: true, networkMode: 'always' },
  mutations: { networkMode: 'always' },
} })

// Only pages that came with TLS, or from this machine, can be kept to open while the bench is away.
if ('serviceWorker' in navigator && import.meta.env.PROD)
  navigator.serviceWorker.register('/sw.js').catch(() => {
    // Without it nothing opens while the bench is away; all else is as it was.
  })

const router = createBrowserRouter([
  { path: 'hand/:token', element: <HandPage /> },
  { path: 'sign-in', element: <SignInPage /> },
  {
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="/runs" replace /> },
      { path: 'shelf', element: <ShelfPage /> },
      { path: 'shelf/kit', element: <KitPage /> },
      { path: 'plan', element: <PlanPage /> },
      { path: 'plan/new', element: <EditPlan key="new" /> },
      { path: 'plan/cards', element: <CardsPage /> },
      { path: 'plan/:id', element: <PlanPage /> },
      { path: 'plan/:id/change', element: <EditPlan key="change" /> },
      { path: 'bench', element: <BenchPage /> },
      { path: 'bench/new', element: <SetUpLane /> },
      { path: 'bench/spot', element: <SpotPage /> },
      { path: 'bench/checks', element: <ChecksPage /> },
      { path: 'bench/aside', element: <AsidePage /> },
      { path: 'runs', element: <RunsPage key="runs" /> },
      { path: 'runs/read', element: <ReadPage /> },
      { path: 'runs/many/:upload', element: <ManyPage /> },
      { path: 'runs/heat', element: <HeatPage /> },
      { path: 'runs/spot', element: <SpotChecksPage /> },
      { path: 'runs/simulated', element: <RunsPage key="simulated" simulated /> },
      { path: 'runs/:id', element: <RunPage /> },
      { path: 'packs', element: <PacksPage /> },
      { path: 'packs/charges', element: <ChargesPage /> },
      { path: 'packs/plan', element: <PackPlanPage /> },
      { path: 'findings', element: <FindingsPage /> },
      { path: 'findings/:id', element: <FindingsPage /> },
      { path: 'people', element: <PeoplePage /> },
      { path: 'jobs', element: <JobsPage /> },
      { path: 'versus', element: <VersusPage /> },
      { path: 'versus/table', element: <TablePage /> },
      { path: '*', element: <Navigate to="/runs" replace /> },
    ],
  },
])

const root = document.getElementById('root')
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <SettingsProvider>
          <UndoProvider>
            <RouterProvider router={router} />
          </UndoProvider>
        </SettingsProvider>
      </QueryClientProvider>
    </StrictMode>,
  )
