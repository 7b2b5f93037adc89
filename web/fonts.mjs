// Turns the product's fonts into TrueType, which the PDF embeds as subsets: node fonts.mjs FOLDER.
import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import process from 'node:process'
import { decompress } from 'wawoff2'

const folder = process.argv[2]
const faces = {
  sans: 'ibm-plex-sans/files/ibm-plex-sans-SCRIPT-400-normal',
  'sans-bold': 'ibm-plex-sans/files/ibm-plex-sans-SCRIPT-600-normal',
  serif: 'source-serif-4/files/source-serif-4-SCRIPT-400-normal',
  'serif-bold': 'source-serif-4/files/source-serif-4-SCRIPT-600-normal',
}
for (const [face, file] of Object.entries(faces))
  for (const script of ['latin', 'latin-ext', 'greek', 'cyrillic']) {
    const path = join('node_modules/@fontsource', `${file.replace('SCRIPT', script)}.woff2`)
    await writeFile(join(folder, `${face}.${script}.ttf`), await decompress(await readFile(path)))
  }
