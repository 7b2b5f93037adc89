/** What a browser says of itself, as a person would: "a browser on Linux". */
export function machineOf(agent: string): string {
  const systems: [RegExp, string][] = [
    [/android/i, 'Android'],
    [/iphone|ipad/i, 'an iPhone or iPad'],
    [/windows/i, 'Windows'],
    [/mac os/i, 'a Mac'],
    [/linux|x11/i, 'Linux'],
  ]
  const system = systems.find(([pattern]) => pattern.test(agent))?.[1]
  if (!agent) return 'A program that says nothing of itself'
  if (!/mozilla/i.test(agent)) return `A program: ${agent.slice(0, 60)}`
  return system ? `A browser on ${system}` : 'A browser'
}
