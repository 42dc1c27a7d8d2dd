import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'
import type { Degrees } from '../reader/settings'
import { benchApi } from './bench'
import { api, taken, type Shape } from './client'
import type { paths } from './schema'

/** Which runs are compared, over which window, laid together by what. */
export interface Compared {
  runs: string[]
  start: number | null
  end: number | null
  align: Shape['VersusShape']['align']
}

/** Who asks for advice. */
export interface Asker {
  tier: string
  budget: number | null
  currency: string
  where: 'at home' | 'on the way'
  quiet: boolean
}

/** Which runs are listed, in which order. */
export type RunsAsked = Omit<NonNullable<paths['/api/runs/listed']['get']['parameters']['query']>, 'after'>

export type HeatAsked = Omit<NonNullable<paths['/api/throttling']['get']['parameters']['query']>, 'after'>

const A_MINUTE = 60_000
const A_WHILE = 10_000

const oneRun = (id: string) => ({ path: { run_id: id } })

/** All that is asked of the application, a subject each: its key, whose first word is the subject, and the question. */
export const queries = {
  /** Some runs, by their ids. */
  runsNamed: (run: string[]) =>
    queryOptions({
      queryKey: ['runs', 'named', run],
      queryFn: async () => (run.length ? taken(await api.GET('/api/runs', { params: { query: { run } } })) : []),
      placeholderData: keepPreviousData,
    }),

  /** Runs filtered and sorted, page by page. */
  runList: (asked: RunsAsked) =>
    infiniteQueryOptions({
      queryKey: ['runs', 'listed', asked],
      queryFn: async ({ pageParam }) => taken(await api.GET('/api/runs/listed', { params: { query: { ...asked, after: pageParam } } })),
      initialPageParam: null as string | null,
      getNextPageParam: (page) => page.after,
      placeholderData: keepPreviousData,
    }),

  /** One run, read; temperatures in its sentences follow the setting. */
  run: (id: string, degrees: Degrees) =>
    queryOptions({
      queryKey: ['run', id, degrees],
      queryFn: async () => taken(await api.GET('/api/runs/{run_id}', { params: { ...oneRun(id), query: { degrees } } })),
      placeholderData: keepPreviousData,
    }),

  /** The curves of a run, or of a stretch of it, thinned to the screen. */
  series: (id: string, revision: number, range: [number, number] | null) =>
    queryOptions({
      queryKey: ['series', id, revision, range],
      queryFn: async () =>
        taken(
          await api.GET('/api/runs/{run_id}/series', {
            params: { ...oneRun(id), query: { start: range?.[0], end: range?.[1], points: 1600 } },
          }),
        ),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),

  deletedRuns: () => queryOptions({ queryKey: ['deletedRuns'], queryFn: async () => taken(await api.GET('/api/deleted-runs')) }),
  /** Heat over all runs, page by page. */
  throttling: (asked: HeatAsked) =>
    infiniteQueryOptions({
      queryKey: ['throttling', asked],
      queryFn: async ({ pageParam }) => taken(await api.GET('/api/throttling', { params: { query: { ...asked, after: pageParam } } })),
      initialPageParam: null as string | null,
      getNextPageParam: (page) => page.after,
      placeholderData: keepPreviousData,
    }),
  spotChecks: () => queryOptions({ queryKey: ['spotChecks'], queryFn: async () => taken(await api.GET('/api/spot-checks')) }),
  packs: () => queryOptions({ queryKey: ['packs'], queryFn: async () => taken(await api.GET('/api/packs')) }),

  packCharges: () => queryOptions({ queryKey: ['packs', 'charges'], queryFn: async () => taken(await api.GET('/api/packs/charges')) }),

  packPlan: () => queryOptions({ queryKey: ['packs', 'plan'], queryFn: async () => taken(await api.GET('/api/packs/plan')) }),
  packMethods: () =>
    queryOptions({ queryKey: ['packMethods'], queryFn: async () => taken(await api.GET('/api/packs/methods')), staleTime: Infinity }),

  /** A pack as a whole. */
  pack: (label: string) =>
    queryOptions({
      queryKey: ['packs', 'one', label],
      queryFn: async () => taken(await api.GET('/api/packs/{label}', { params: { path: { label } } })),
      placeholderData: keepPreviousData,
    }),

  /** A test of a pack, read. */
  packTest: (id: string) =>
    queryOptions({
      queryKey: ['packTest', id],
      queryFn: async () => taken(await api.GET('/api/pack-tests/{test_id}', { params: { path: { test_id: id } } })),
      staleTime: Infinity,
    }),

  jobs: () => queryOptions({ queryKey: ['jobs'], queryFn: async () => taken(await api.GET('/api/jobs')) }),
  rereading: () => queryOptions({ queryKey: ['rereading'], queryFn: async () => taken(await api.GET('/api/rereading')) }),

  /** The runs that a file holds which was sent. */
  fileRuns: (upload: string, zone: string) =>
    queryOptions({
      queryKey: ['fileRuns', upload, zone],
      retry: false,
      staleTime: Infinity,
      queryFn: async () => taken(await api.GET('/api/uploads/{upload_id}/runs', { params: { path: { upload_id: upload }, query: { zone } } })),
    }),

  /** Whose clock the files of a run count by. */
  clocks: (files: Shape['ClocksAsked']['files'], enabled: boolean) =>
    queryOptions({
      queryKey: ['clocks', files],
      enabled,
      retry: false,
      queryFn: async () => taken(await api.POST('/api/clocks', { body: { files, placed_s: null } })),
    }),

  /** Habits, tariff and the reference run. */
  settings: () => queryOptions({ queryKey: ['settings'], queryFn: async () => taken(await api.GET('/api/settings')) }),

  /** All kit in use, or all that was removed. */
  kit: (retired = false) =>
    queryOptions({
      queryKey: ['kit', retired],
      queryFn: async () => taken(await api.GET('/api/kit', { params: { query: { retired } } })),
    }),

  /** The kinds of kit with the fields of their forms. */
  kitKinds: () => queryOptions({ queryKey: ['kitKinds'], staleTime: Infinity, queryFn: async () => taken(await api.GET('/api/kit/kinds')) }),
  standards: () => queryOptions({ queryKey: ['standards'], staleTime: Infinity, queryFn: async () => taken(await api.GET('/api/kit/standards')) }),
  phones: () => queryOptions({ queryKey: ['phones'], queryFn: async () => taken(await api.GET('/api/phones')) }),

  /** What is understood of a line that is being typed; nothing is kept. */
  typedKit: (line: string) =>
    queryOptions({
      queryKey: ['typedKit', line],
      queryFn: async () => taken(await api.POST('/api/kit/line', { body: { line, keep: false } })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
      gcTime: A_WHILE,
    }),

  /** What a chosen chain will do; nothing is asked while no phone is chosen. */
  chain: (choice: Shape['ChainChoice'] | null, kitKey: unknown) =>
    queryOptions({
      queryKey: ['chain', choice, kitKey],
      enabled: choice !== null,
      queryFn: async () => taken(await api.POST('/api/chain', { body: choice as Shape['ChainChoice'] })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
    }),

  /** Method cards, schools, factors and orders: all that a plan can be made of. */
  method: () => queryOptions({ queryKey: ['method'], queryFn: async () => taken(await api.GET('/api/method')) }),

  /** All plans, the newest first, or those that were deleted. */
  plans: (deleted = false) =>
    queryOptions({
      queryKey: ['plans', deleted],
      queryFn: async () => taken(await api.GET('/api/plans', { params: { query: { deleted } } })),
    }),

  /** A plan, looked at anew every minute: what is due changes with the clock. */
  plan: (id: string | undefined) =>
    queryOptions({
      queryKey: ['plan', id],
      enabled: id !== undefined,
      refetchInterval: A_MINUTE,
      queryFn: async () => taken(await api.GET('/api/plans/{plan_id}', { params: { path: { plan_id: id ?? '' } } })),
    }),

  /** A plan worked out, not kept. */
  preview: (wanted: Shape['NewPlanShape'] | null) =>
    queryOptions({
      queryKey: ['preview', wanted],
      enabled: wanted !== null,
      placeholderData: keepPreviousData,
      staleTime: Infinity,
      gcTime: A_MINUTE,
      queryFn: async ({ signal }) => taken(await api.POST('/api/plans/preview', { body: wanted as Shape['NewPlanShape'], signal })),
    }),

  /** What a run that fills a slot will state. */
  slot: (id: string | null) =>
    queryOptions({
      queryKey: ['slot', id],
      enabled: id !== null,
      queryFn: async () => taken(await api.GET('/api/slots/{slot_id}', { params: { path: { slot_id: id ?? '' } } })),
    }),

  /** Runs of plans that can be started on the bench now. */
  nextSlots: () => queryOptions({ queryKey: ['plans', 'next'], queryFn: benchApi.next }),

  /** Runs against each other; the last comparison stands until the next is there. */
  versus: ({ runs, start, end, align }: Compared, degrees: Degrees) =>
    queryOptions({
      queryKey: ['versus', runs, start, end, align, degrees],
      enabled: runs.length > 1,
      placeholderData: keepPreviousData,
      queryFn: async ({ signal }) =>
        taken(
          await api.GET('/api/versus', {
            params: { query: { run: runs, align, degrees, ...(start === null ? {} : { start }), ...(end === null ? {} : { end }) } },
            signal,
          }),
        ),
    }),

  /** What there is to compare: plans, phones, everything. */
  offered: () => queryOptions({ queryKey: ['versus', 'offered'], queryFn: async () => taken(await api.GET('/api/versus/offered')) }),
  phoneTable: () => queryOptions({ queryKey: ['versus', 'table'], queryFn: async () => taken(await api.GET('/api/versus/table')) }),

  findings: () => queryOptions({ queryKey: ['findings'], queryFn: async () => taken(await api.GET('/api/findings', { params: { query: { deleted: false } } })) }),
  finding: (id: string) =>
    queryOptions({
      queryKey: ['finding', id],
      enabled: id !== '',
      queryFn: async () => taken(await api.GET('/api/findings/{finding_id}', { params: { path: { finding_id: id } } })),
    }),

  /** Advice to somebody; the last stands until the next is there. */
  advice: (id: string, revision: number, asker: Asker) =>
    queryOptions({
      queryKey: ['advice', id, revision, asker],
      placeholderData: keepPreviousData,
      queryFn: async () =>
        taken(
          await api.GET('/api/findings/{finding_id}/advice', {
            params: {
              path: { finding_id: id },
              query: { tier: asker.tier, where: asker.where, quiet: asker.quiet, currency: asker.currency, ...(asker.budget === null ? {} : { budget: asker.budget }) },
            },
          }),
        ),
    }),

  aside: () => queryOptions({ queryKey: ['aside'], queryFn: async () => taken(await api.GET('/api/bench/aside')) }),
  meterChecks: () => queryOptions({ queryKey: ['meterChecks'], queryFn: async () => taken(await api.GET('/api/meter-checks')) }),
  entryHelp: () => queryOptions({ queryKey: ['entryHelp'], staleTime: Infinity, queryFn: benchApi.help }),
  laneLink: (id: string) => queryOptions({ queryKey: ['laneLink', id], queryFn: () => benchApi.link(id) }),

  /** The log of a lane; asked for again when what `seen` says of it changes. */
  laneLog: (id: string, seen: unknown) =>
    queryOptions({ queryKey: ['laneLog', id, seen], placeholderData: keepPreviousData, queryFn: () => benchApi.log(id) }),

  /** A survey of spot checks while it is made. */
  spot: (survey: string, everyMs: number) =>
    queryOptions({
      queryKey: ['spot', survey],
      enabled: survey !== '',
      refetchInterval: everyMs,
      queryFn: async () => taken(await api.GET('/api/spot-checks/{survey}', { params: { path: { survey } } })),
    }),

  network: () => queryOptions({ queryKey: ['network'], staleTime: Infinity, queryFn: async () => taken(await api.GET('/api/network')) }),
  people: () => queryOptions({ queryKey: ['people'], queryFn: async () => taken(await api.GET('/api/people')) }),
  sessions: () => queryOptions({ queryKey: ['sessions'], queryFn: async () => taken(await api.GET('/api/sign-ins')) }),
}
