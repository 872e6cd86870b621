import { computed, ref } from 'vue'
import type { Ref } from 'vue'

interface Spot {
  row: number
  column: number
}

/** The chosen cells of a grid: a block from where it began (head) to where it ends (tail). */
export function useSelection(rowCount: Ref<number>, columnCount: Ref<number>) {
  const head = ref<Spot | null>(null)
  const tail = ref<Spot | null>(null)
  let stretching = false

  const box = computed(() => {
    const [a, b] = [head.value, tail.value]
    if (!a || !b) return null
    return {
      top: Math.min(a.row, b.row),
      bottom: Math.min(Math.max(a.row, b.row), rowCount.value - 1),
      left: Math.min(a.column, b.column),
      right: Math.min(Math.max(a.column, b.column), columnCount.value - 1),
    }
  })
  const many = computed(() => {
    const at = box.value
    return at !== null && (at.bottom > at.top || at.right > at.left)
  })

  function start(row: number, column: number) {
    if (stretching) return
    head.value = { row, column }
    tail.value = { row, column }
  }
  function stretch(row: number, column: number) {
    stretching = true
    tail.value = {
      row: Math.min(Math.max(row, 0), rowCount.value - 1),
      column: Math.min(Math.max(column, 0), columnCount.value - 1),
    }
    stretching = false
  }
  function has(row: number, column: number): boolean {
    const at = box.value
    if (!at) return false
    return row >= at.top && row <= at.bottom && column >= at.left && column <= at.right
  }
  /** The chosen cells, line by line, as [row, column]. */
  function cells(): [number, number][][] {
    const at = box.value
    if (!at) return []
    const across = Array.from({ length: at.right - at.left + 1 }, (_, n) => at.left + n)
    return Array.from({ length: at.bottom - at.top + 1 }, (_, n) =>
      across.map((column): [number, number] => [at.top + n, column]),
    )
  }

  return {
    head,
    many,
    start,
    stretch,
    has,
    cells,
    extend: (down: number, right: number) =>
      tail.value && stretch(tail.value.row + down, tail.value.column + right),
    /** From a single row, choose down to the last one. */
    toEndIfOne: () => {
      if (box.value && box.value.top === box.value.bottom) stretch(rowCount.value - 1, tail.value!.column)
    },
  }
}
