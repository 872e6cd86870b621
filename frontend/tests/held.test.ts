/** What comes in while somebody types in a field waits until they are done. */
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, withDirectives } from 'vue'

import { vHeld } from '@/shared/held'

const Field = defineComponent({
  props: { value: { type: Number, required: true } },
  setup: (props) => () => withDirectives(h('input'), [[vHeld, props.value]]),
})

describe('a held field', () => {
  it('shows what comes in, but not into what is being typed', async () => {
    const field = mount(Field, { props: { value: 7 } })
    const input = field.element as HTMLInputElement
    expect(input.value).toBe('7')
    await field.setProps({ value: 8 })
    expect(input.value).toBe('8')
    input.value = '9'
    input.dispatchEvent(new Event('input'))
    await field.setProps({ value: 6 })
    expect(input.value).toBe('9')
    input.dispatchEvent(new Event('change'))
    await field.setProps({ value: 5 })
    expect(input.value).toBe('5')
  })
})
