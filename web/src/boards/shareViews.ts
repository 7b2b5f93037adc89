import { api, unwrap, type Saved, type Content, type Schemas } from '../api/client'
import { withAlso } from '../sharing/shares'

/** Shares views with all who see a board; tells how many of them are others' to share. */
export async function shareViews(
  views: ReadonlyMap<string, Schemas['BoardView']>,
  shares: Saved<Content>['shares'],
): Promise<number> {
  let left = 0
  for (const key of views.keys()) {
    const at = { params: { path: { key } } }
    const view = await unwrap(api.GET('/api/views/{key}', at)).catch(() => null)
    if (!view) continue
    const all = withAlso(view.shares, shares)
    if (all.length === view.shares.length) continue
    if (view.owned) await unwrap(api.PUT('/api/views/{key}/shares', { ...at, body: { shares: all } }))
    else left++
  }
  return left
}
