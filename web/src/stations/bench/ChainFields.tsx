import type { Kit, KitKind } from '../../api/useKit'
import { NO_CASE, WIRED } from '../../api/rules'
import { Choice } from './Choice'


interface Props {
  pieces: Kit[]
  factors: Record<string, string>
  onFactors: (factors: Record<string, string>) => void
  autoFocus?: boolean
}

/** The chain of a lane, from what is on the shelf: a charger, a pack or a phone that gives by its coil, or a cable; fed by
 * an adapter, or by a pack's own socket. */
export function ChainFields({ pieces, factors, onFactors, autoFocus }: Props) {
  const of = (...kinds: KitKind[]) => pieces.filter((k) => kinds.includes(k.kind)).map((k) => k.label)
  const coils = pieces.filter((k) => k.wireless && (k.kind === 'charger' || k.kind === 'pack' || Boolean(k.fields.gives_w))).map((k) => k.label)
  const places = (pieces.find((k) => k.label === factors.charger)?.places ?? []).filter((p) => p !== '')
  const byWire = factors.charger === WIRED
  const ownSource = pieces.find((k) => k.label === factors.charger)?.kind === 'pack'
  const state = (name: string) => (text: string) => {
    const next = { ...factors, [name]: text }
    if (name === 'charger') delete next.place
    // A pack brings its own supply, and only a cable can be fed by another.
    if (name === 'charger' && text !== WIRED && of('pack').includes(next.adapter ?? '')) delete next.adapter
    onFactors(next)
  }
  return (
    <>
      <Choice text="phone" value={factors.phone} options={of('phone')} onChoose={state('phone')} autoFocus={autoFocus} />
      <Choice
        text="charger"
        value={factors.charger}
        options={[...coils.filter((l) => l !== factors.phone), WIRED]}
        said={{ [WIRED]: 'none: by wire' }}
        onChoose={state('charger')}
      />
      {places.length > 0 && <Choice text="place on it" value={factors.place} options={places} onChoose={state('place')} />}
      <Choice
        text={byWire ? 'adapter or pack' : 'adapter'}
        value={factors.adapter}
        options={byWire ? [...of('adapter'), ...of('pack')] : of('adapter')}
        none={ownSource ? 'none: the pack itself' : '–'}
        disabled={ownSource}
        onChoose={state('adapter')}
      />
      <Choice text="cable" value={factors.cable} options={of('cable')} disabled={ownSource} onChoose={state('cable')} />
      <Choice text="case" value={factors.case} options={[NO_CASE, ...of('case')]} onChoose={state('case')} />
    </>
  )
}
