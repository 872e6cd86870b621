let newest = 0
const drawn = new WeakMap<HTMLCanvasElement, number>()

/** Draw a picture on a canvas; one that was overtaken by a newer one is dropped. */
export async function draw(canvas: HTMLCanvasElement | null, picture: Blob): Promise<void> {
  if (!canvas) return
  const number = ++newest
  const bitmap = await createImageBitmap(picture)
  if ((drawn.get(canvas) ?? 0) < number) {
    drawn.set(canvas, number)
    if (canvas.width !== bitmap.width) canvas.width = bitmap.width
    if (canvas.height !== bitmap.height) canvas.height = bitmap.height
    canvas.getContext('2d')?.drawImage(bitmap, 0, 0)
  }
  bitmap.close()
}
