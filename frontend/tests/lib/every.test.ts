import { readdirSync } from 'node:fs'
import { expect, it } from 'vitest'

const TYPES_ALONE = ['told']

it('every framework-free module has its tests', () => {
  const modules = readdirSync('src/lib').map((name) => name.replace('.ts', ''))
  const tested = readdirSync('tests/lib').map((name) => name.replace('.test.ts', ''))
  expect(modules.filter((name) => !tested.includes(name) && !TYPES_ALONE.includes(name))).toEqual([])
})
