import { flushPromises, mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, h } from 'vue'
import { useAsked } from './asked'

it('a slow answer to an older question does not overwrite a newer one', async () => {
  const answers: ((v: string) => void)[] = []
  let asked!: ReturnType<typeof useAsked<string>>
  mount(
    defineComponent({
      setup() {
        asked = useAsked(() => new Promise<string>((done) => answers.push(done)))
        return () => h('p', asked.value.value ?? '')
      },
    }),
  )
  void asked.load()
  answers[1]!('newer')
  await flushPromises()
  answers[0]!('older')
  await flushPromises()
  expect(asked.value.value).toBe('newer')
})
