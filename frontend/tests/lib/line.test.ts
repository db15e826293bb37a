import { describe, expect, it } from 'vitest'
import { fieldsOf, lineOf } from '../../src/lib/line'

describe('a line out of a form', () => {
  it('quotes what holds spaces, and leaves bare words bare', () => {
    const line = lineOf([
      { operator: '', value: 'freight "two harps"' },
      { operator: 'from', value: 'Ilse Vann' },
      { operator: 'since', value: '2w' },
      { operator: 'to', value: '  ' },
    ])
    expect(line).toBe('freight "two harps" from:"Ilse Vann" since:2w')
  })

  it('lets no quotation mark end a value early', () => {
    expect(lineOf([{ operator: 'subject', value: 'a"b c' }])).toBe('subject:"ab c"')
  })
})

describe('the fields of a line', () => {
  it('come back as they were written', () => {
    const conditions = [
      { operator: '', value: 'freight' },
      { operator: 'from', value: 'Ilse Vann' },
    ]
    expect(fieldsOf(conditions)).toEqual({ '': 'freight', from: 'Ilse Vann' })
  })

  it('keep a second condition of one operator among the bare words', () => {
    const fields = fieldsOf([
      { operator: 'from', value: 'a' },
      { operator: 'from', value: 'b c' },
    ])
    expect(fields).toEqual({ '': 'from:"b c"', from: 'a' })
  })
})
