import { useState } from 'react'

interface Props {
  onTable: (file: File) => void
}

/** A table that is pasted or typed: taken for a file, so that any columns may come in any order. */
export function PasteBox({ onTable }: Props) {
  const [text, setText] = useState('')
  const use = (table: string) => {
    onTable(new File([table], 'pasted table.tsv', { type: 'text/tab-separated-values' }))
    setText('')
  }
  return (
    <div className="flex items-start gap-2">
      <textarea
        className="textarea textarea-sm reading min-h-9 grow leading-5"
        rows={text.includes('\n') ? 6 : 1}
        aria-label="a table, pasted or typed"
        placeholder="or paste a table: time, %, and any of V, A, W, °C; one run or many"
        value={text}
        onChange={(e) => {
          setText(e.target.value)
        }}
        onPaste={(e) => {
          const pasted = e.clipboardData.getData('text/plain')
          if (text.trim() !== '' || pasted.trim().split('\n').length < 2) return
          e.preventDefault()
          use(pasted)
        }}
      />
      <button
        type="button"
        className="btn btn-sm btn-outline border-base-300 font-normal"
        disabled={text.trim().split('\n').length < 2}
        onClick={() => {
          use(text)
        }}
      >
        Use this table
      </button>
    </div>
  )
}
