import { expect, it } from 'vitest'
import { effectScope, nextTick, shallowRef } from 'vue'
import { useHeld } from './useHeld'

it('gives way to a newer version only while nothing is typed', async () => {
  const current = shallowRef<{ version: number } | null>({ version: 1 })
  let typed = false
  let renewed = 0
  const scope = effectScope()
  const { held, newer } = scope.run(() =>
    useHeld(
      () => current.value,
      () => typed,
      () => renewed++,
    ),
  )!
  current.value = { version: 1 } // read again, as after a change of window
  await nextTick()
  expect(newer.value).toBeNull()
  typed = true
  current.value = { version: 2 }
  await nextTick()
  expect(renewed).toBe(0)
  expect(held.value?.version).toBe(1)
  expect(newer.value?.version).toBe(2)
  typed = false
  current.value = { version: 3 }
  await nextTick()
  expect(renewed).toBe(1)
  scope.stop()
})
