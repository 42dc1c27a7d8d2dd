import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

const STATIONS = ['bench', 'findings', 'packs', 'plan', 'runs', 'shelf', 'versus']

/** What a folder may not import: the ones beside it and those above. */
const without = (files, group, message) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns: [{ group, message }] }] },
})

export default tseslint.config(
  { ignores: ['src/api/schema.d.ts'] },
  ...tseslint.configs.strict,
  hooks.configs.flat['recommended-latest'],
  {
    rules: {
      'no-restricted-properties': [
        'error',
        { object: 'crypto', property: 'randomUUID', message: 'a page that came without TLS has none: use v4 of uuid' },
        { object: 'navigator', property: 'clipboard', message: 'a page that came without TLS has none: use copyText' },
      ],
    },
  },
  ...STATIONS.map((station) =>
    without(
      [`src/stations/${station}/**`],
      STATIONS.filter((other) => other !== station).map((other) => `../${other}/*`),
      'stations do not know one another: what two of them show lies in src/shared',
    ),
  ),
  without(['src/shared/**', 'src/ui/**', 'src/charts/**', 'src/ribbon/**'], ['**/stations/**'], 'stations stand above this'),
  without(['src/charts/**', 'src/ribbon/**'], ['**/stations/**', '**/shared/**'], 'stations and what they share stand above this'),
  without(['src/api/**'], ['../ui/*', '../charts/*', '../ribbon/*', '../shared/*', '**/stations/**'], 'what asks knows nothing of what shows'),
  without(['src/reader/**'], ['../*', '../**'], 'the reader stands below all else'),
)
