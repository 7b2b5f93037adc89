import type { Content, Saved } from '../../api/client'
import type { MenuSection } from '../../shell/ActionMenu.vue'

type Whose = { everyone?: boolean; group?: number; on: boolean }

export const isFavorite = (view: Saved<Content>) => view.mine || view.everyones || view.groups.length > 0

/** Keeps a view at hand on one's own desk, or on those of a group or of everyone it is shared with. */
export function favoriteSection(view: Saved<Content>, keepOn: (whose: Whose) => void): MenuSection {
  const shared = view.owned ? view.shares : []
  const desks = [
    { id: 'desk', title: 'On my desk', checked: view.mine, whose: {} },
    ...(shared.some((s) => !s.group && !s.role)
      ? [
          {
            id: 'desks',
            title: 'On everyone’s desk',
            checked: view.everyones,
            whose: { everyone: true },
          },
        ]
      : []),
    ...shared
      .filter((s) => s.group)
      .map((s) => ({
        id: `desk-${s.group}`,
        title: `On the desks of ${s.name}`,
        checked: view.groups.some((g) => g.id === s.group),
        whose: { group: s.group },
      })),
  ]
  const note = !view.owned
    ? `Only ${view.owner} can put it on other people’s.`
    : view.shares.length
      ? undefined
      : 'Share it first to put it on other people’s.'
  return {
    heading: 'Favorite',
    note,
    acts: desks.map(({ whose, ...d }) => ({ ...d, run: () => keepOn({ ...whose, on: !d.checked }) })),
  }
}
