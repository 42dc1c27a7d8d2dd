import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { asProblem, Refused } from '../../api/client'
import { copyText } from '../../ui/copyText'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { PackageButton } from './Packages'
import { ShareButton } from './ShareButton'
import type { Finding } from './useFinding'

const plain = 'btn btn-outline border-base-300 btn-sm font-normal'
const RACE = [15, 30, 45, 60]

/** The finding as files: page, PDF, pictures, workbook, tables, texts. */
export function Files({ finding }: { finding: Finding }) {
  const [form, setForm] = useState<'wide' | 'square'>('wide')
  const [ground, setGround] = useState(true)
  const [times, setTimes] = useState('2')
  const say = useSay()
  const base = `/api/findings/${finding.id}`
  const pictures = new URLSearchParams({ form, ground: String(ground), times }).toString()
  const copy = useMutation({
    mutationFn: async (name: string) => {
      const answer = await fetch(`${base}/files/${name}`)
      if (!answer.ok) throw new Refused(asProblem(await answer.json()))
      await copyText(await answer.text())
    },
    onSuccess: () => {
      say({ text: 'Copied.' })
    },
  })
  const fetched = useMutation({
    mutationFn: async ({ path }: { path: string; name: string }) => {
      const answer = await fetch(base + path)
      if (!answer.ok) throw new Refused(asProblem(await answer.json()))
      const name = /filename="([^"]+)"/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? 'finding'
      const link = document.createElement('a')
      link.href = URL.createObjectURL(await answer.blob())
      link.download = name
      link.click()
      URL.revokeObjectURL(link.href)
    },
  })
  const busy = (name: string) => fetched.isPending && fetched.variables.name === name
  const file = (path: string, name: string) => (
    <button key={name} className={plain} disabled={fetched.isPending} onClick={() => { fetched.mutate({ path, name }) }}>
      {busy(name) ? `${name} …` : name}
    </button>
  )
  return (
    <>
      {file('/files/page.html', 'Page')}
      {file('/files/report.pdf', 'PDF')}
      {file('/files/tables.xlsx', 'XLSX')}
      <button className={plain} popoverTarget="finding-pictures">
        Pictures
      </button>
      <button className={plain} popoverTarget="finding-texts">
        Texts
      </button>
      <PackageButton finding={finding.id} text="Data package" />
      <ShareButton id={finding.id} />
      <span className="sr-only" role="status">
        {fetched.isPending ? `${fetched.variables.name} is being made` : ''}
      </span>
      {(fetched.error ?? copy.error) && <ProblemLine error={fetched.error ?? copy.error} />}
      <div id="finding-pictures" popover="auto" className="bg-base-100 text-base-content border-base-content m-auto border p-4 text-sm shadow-lg" aria-label="pictures">
        <div className="flex w-80 flex-col gap-2">
          <label className="flex items-center justify-between gap-2">
            shape
            <select className="select select-xs w-40" value={form} onChange={(e) => { setForm(e.target.value === 'square' ? 'square' : 'wide') }}>
              <option value="wide">16:9</option>
              <option value="square">square</option>
            </select>
          </label>
          <label className="flex items-center justify-between gap-2">
            PNG size
            <select className="select select-xs w-40" value={times} onChange={(e) => { setTimes(e.target.value) }}>
              {['1', '2', '4'].map((n) => (
                <option key={n} value={n}>
                  {n} times
                </option>
              ))}
            </select>
          </label>
          <label className="flex items-center justify-between gap-2">
            background
            <input type="checkbox" className="checkbox checkbox-xs" checked={ground} onChange={(e) => { setGround(e.target.checked) }} />
          </label>
          <button className={plain} disabled={fetched.isPending} onClick={() => { fetched.mutate({ path: `/pictures.zip?${pictures}`, name: 'all pictures' }) }}>
            {busy('all pictures') ? 'All pictures …' : 'All pictures (SVG and PNG) in a ZIP'}
          </button>
          <div className="grid grid-cols-2 gap-2">
            {(['ribbons', 'bars', 'table', 'battery', 'power', 'temperature', 'heat', 'price', 'walk', 'chain'] as const).map((p) => (
              <a key={p} className={plain} href={`${base}/drawings/${p}.svg?${pictures}`} download>
                {NAMES[p]}
              </a>
            ))}
            {RACE.map((minute) => (
              <a key={minute} className={plain} href={`${base}/drawings/race.svg?${pictures}&minute=${String(minute)}`} download>
                race, {minute} min
              </a>
            ))}
          </div>
        </div>
      </div>
      <div id="finding-texts" popover="auto" className="bg-base-100 text-base-content border-base-content m-auto border p-4 text-sm shadow-lg" aria-label="texts">
        <div className="flex w-64 flex-col gap-2">
          <button className={plain} onClick={() => { copy.mutate('short.txt') }}>
            Copy the short text
          </button>
          <button className={plain} onClick={() => { copy.mutate('long.txt') }}>
            Copy the long text
          </button>
          <button className={plain} onClick={() => { copy.mutate('post.md') }}>
            Copy as Markdown
          </button>
          {file('/files/table.csv', 'Table as CSV')}
          {file('/files/post.md', 'Post as Markdown')}
        </div>
      </div>
    </>
  )
}

const NAMES = {
  ribbons: 'ribbons', bars: 'minutes to 50, 80, 100', table: 'phones and chargers', battery: 'battery', power: 'power',
  temperature: 'temperature', heat: 'minutes and °C', price: 'minutes and price', walk: 'walk of energy', chain: 'chain',
} as const
