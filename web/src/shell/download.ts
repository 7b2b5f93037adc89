/** Lets the browser keep what stands at an address, under the name that the server gives or under this one. */
export function download(href: string, name = '') {
  const link = document.createElement('a')
  link.href = href
  link.download = name
  link.click()
}
