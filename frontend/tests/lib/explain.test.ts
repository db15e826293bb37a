import { describe, expect, it } from 'vitest'
import type { Message } from '../../src/api/client'
import { placeWords, scoreWords } from '../../src/lib/explain'

const bounds = { ask: 0.1, desk: 0.17, quite: 0.97, fairly: 0.8 }
const message = {
  subject: 'Risers',
  sender_name: 'Oskar Brandel',
  sender_address: 'brandel@salthall.example',
} as Message

describe('what things are', () => {
  it('tells a bucket with a message that stands there', () => {
    const said = placeWords({ name: 'shelf', band: 2 }, message)
    expect(said).toContain('can wait')
    expect(said).toContain('One of yours: “Risers” from Oskar Brandel.')
    expect(placeWords({ name: 'shelf', band: 2 })).not.toContain('One of yours')
  })

  it('tells a bucket of the owner from a folder', () => {
    expect(placeWords({ name: 'bucket-7', band: 6 })).toContain('A bucket of your own')
    expect(placeWords({ name: 'folder-7', band: -1 })).toContain('A folder of your own')
  })

  it('tells a score with its doubt and where the Desk begins', () => {
    const said = scoreWords({ score: 0.56, low_edge: 0.42, high_edge: 0.7 }, bounds)
    expect(said).toContain('about 56 need you now; between 42 and 70')
    expect(said).toContain('From 17 on')
  })
})
