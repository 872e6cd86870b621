import type { ObjectDirective } from 'vue'

type Field = HTMLInputElement & { heldTyping?: boolean }

function show(field: Field, value: string | number | undefined): void {
  const text = String(value ?? '')
  if (!field.heldTyping && field.value !== text) field.value = text
}

/**
 * The value of a field that is saved on `change`: what comes in while somebody types in it waits
 * until they are done, as it would wipe out what they have typed.
 */
export const vHeld: ObjectDirective<Field, string | number | undefined> = {
  mounted(field, { value }) {
    show(field, value)
    field.addEventListener('input', () => (field.heldTyping = true))
    for (const done of ['change', 'blur']) field.addEventListener(done, () => (field.heldTyping = false))
  },
  updated: (field, { value }) => show(field, value),
}
