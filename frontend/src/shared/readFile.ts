/** The content of a file in base64, as the API and the stage take it. */
export function readFile(file: File): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(String(reader.result).split(',')[1] ?? '')
    reader.onerror = () => reject(reader.error ?? new Error(`${file.name} could not be read.`))
    reader.readAsDataURL(file)
  })
}
