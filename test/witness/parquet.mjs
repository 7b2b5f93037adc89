// Reads a Parquet file with a reader that has nothing in common with what wrote it.
import { asyncBufferFromFile, parquetMetadataAsync, parquetReadObjects } from '../../web/node_modules/hyparquet/src/node.js'
import process from 'node:process'

const file = await asyncBufferFromFile(process.argv[2])
const metadata = await parquetMetadataAsync(file)
const types = {}
for (const column of metadata.schema.slice(1)) types[column.name] = column.logical_type?.type ?? column.type
const rows = await parquetReadObjects({ file, metadata, utf8: true })
const plain = (_, v) => (typeof v === 'bigint' ? Number(v) : v)
for (const row of rows) for (const [k, v] of Object.entries(row)) if (v instanceof Date) row[k] = v.getTime()
const brief = metadata.key_value_metadata.find((m) => m.key === 'gavrik.brief').value
process.stdout.write(JSON.stringify({ brief, types, rows }, plain))
