import type { Shape } from '../../api/client'
import { HowSign } from '../../ui/HowSign'
import { Strong, unbroken } from '../../ui/text'

interface Props {
  sentence: Shape['SentenceShape']
  chosen: boolean
  onChoose: (key: string) => void
  onWorking: (figure: string) => void
}

/** A sentence about the run; clicked, it lights up its stretch. */
export function RunSentence({ sentence, chosen, onChoose, onWorking }: Props) {
  return (
    <div className={`flex items-start border-l-4 ${chosen ? 'border-base-content bg-accent' : 'hover:bg-base-200 border-transparent'}`}>
      <button
        aria-pressed={chosen}
        onClick={() => {
          onChoose(sentence.key)
        }}
        className="block min-w-0 grow cursor-pointer py-1.5 pl-3 text-left leading-snug"
      >
        <span className="block">
          <Strong text={sentence.text} />
        </span>
        <span className="soft block text-xs">{unbroken(sentence.basis)}</span>
      </button>
      {sentence.figure && (
        <span className="mt-2 ml-1">
          <HowSign
            onClick={() => {
              onWorking(sentence.figure)
            }}
          />
        </span>
      )}
    </div>
  )
}
