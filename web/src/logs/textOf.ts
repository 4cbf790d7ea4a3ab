/** A file's text in whatever of the usual ways it was written: with a byte-order mark, in UTF-8, or in an older table of letters. */
export async function textOf(file: Blob): Promise<string> {
  const bytes = await file.arrayBuffer()
  const mark = new Uint8Array(bytes.slice(0, 2))
  if (mark[0] === 0xff && mark[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (mark[0] === 0xfe && mark[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}
