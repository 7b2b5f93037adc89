import { describe, expect, it } from 'vitest'
import { missing, readViewFile } from './bringing'

const document = { gavrik: 1, records: 'claims', columns: [{ field: 'net' }] }
const net = { records: 'claims', calculated: { key: 'net', label: 'Net', formula: 'Claimed - Paid' } }

describe('files of views', () => {
  it('are read as files of many views, of one, and as bare documents', () => {
    const many = {
      views: [
        { name: 'A', document },
        { name: 'B', document },
      ],
      definitions: [net],
    }
    const read = readViewFile(JSON.stringify(many), 'x.view.json')
    expect(read.views.map((v) => [v.name, v.description])).toEqual([
      ['A', ''],
      ['B', ''],
    ])
    expect(read.definitions).toEqual([net])
    expect(readViewFile(JSON.stringify({ name: 'A', description: 'why', document }), 'x.json').views).toEqual(
      [{ name: 'A', description: 'why', document }],
    )
    expect(readViewFile(JSON.stringify(document), 'net claims.view.json').views[0]?.name).toBe('net claims')
  })
  it('bring definitions that are not here, and leave those that are here otherwise', () => {
    const bucket = { records: 'claims', bucket: { key: 'age', label: 'Age', of: 'days', bands: [] } }
    const other = { ...net.calculated, formula: 'Claimed' }
    expect(missing([net, bucket], [{ records: 'claims', key: 'net', calculated: net.calculated }])).toEqual({
      missing: [bucket],
      otherwise: [],
    })
    expect(missing([net], [{ records: 'claims', key: 'net', calculated: other }])).toEqual({
      missing: [],
      otherwise: [net],
    })
    expect(missing([net], [{ records: 'bookings', key: 'net', calculated: net.calculated }]).missing).toEqual(
      [net],
    )
  })
})
