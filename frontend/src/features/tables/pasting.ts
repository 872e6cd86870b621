/** The cells of a block as a spreadsheet puts it on the clipboard: tabs and lines, quotes doubled. */
export function cellsOf(text: string): string[][] {
  const rows: string[][] = [[]]
  let cell = ''
  let quoted = false
  const end = () => {
    rows.at(-1)!.push(cell)
    cell = ''
  }
  const plain = text.replace(/\r\n?/g, '\n').replace(/\n$/, '')
  for (let place = 0; place < plain.length; place += 1) {
    const letter = plain[place]!
    if (quoted && letter === '"' && plain[place + 1] === '"') {
      cell += '"'
      place += 1
    } else if (letter === '"' && (quoted || cell === '')) quoted = !quoted
    else if (!quoted && letter === '\t') end()
    else if (!quoted && letter === '\n') {
      end()
      rows.push([])
    } else cell += letter
  }
  end()
  return rows
}

/** A block of cells as a spreadsheet takes it from the clipboard. */
export function blockOf(lines: string[][]): string {
  const quoted = (text: string) => (/[\t\n"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)
  return lines.map((line) => line.map(quoted).join('\t')).join('\n')
}
