const percent = (side: number | undefined) => `${(side ?? 0) * 100}%`

/** Where a box is on a picture, as shares of it, for what is drawn over the picture. */
export const placed = ([x, y, width, height]: number[]) => ({
  x: percent(x),
  y: percent(y),
  width: percent(width),
  height: percent(height),
})

/** The same for style sheets. */
export function styleOf(box: number[]) {
  const { x, y, ...size } = placed(box)
  return { left: x, top: y, ...size }
}
