package main

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"gavrik/internal/demo"
)

// pricesView shows the list prices by kind.
const pricesView = `{"gavrik":1,"records":"list_prices","columns":[{"field":"item"},{"field":"list_price","totals":[{"fn":"average"},{"fn":"sum"}]},{"field":"per_ten_miles"}],"groups":[{"field":"kind"}]}`

// raised is the price list as it is now, or as it is after so many rises: each makes what costs more than 5 dearer
// by 4 %, and rounds to 5 cents.
func raised(times int) string {
	var out strings.Builder
	for at, line := range strings.Split(strings.TrimSpace(demo.PriceList(time.Now())), "\n") {
		cells := strings.Split(line, ";")
		var whole, part int
		if _, err := fmt.Sscanf(cells[2], "%d,%d", &whole, &part); err == nil && at > 0 {
			cents := whole*100 + part
			for range times {
				if cents > 500 {
					cents = (cents*104/100 + 2) / 5 * 5
				}
			}
			cells[2] = fmt.Sprintf("%d,%02d", cents/100, cents%100)
		}
		if times > 1 && cells[0] == "Caravan" {
			cells[2] = "21,00" // it has a price now
		}
		out.WriteString(strings.Join(cells, ";") + "\n")
	}
	return out.String()
}

// keepPrices keeps what the list prices are, after each of two rises of them that the office brings in.
func keepPrices(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
	_, err := chromedp.Evaluate[bool](fmt.Sprintf(`(async () => {
		const json = async (method, path, body) => {
			const r = await fetch(path, {method, headers: {'Content-Type': typeof body === 'string' ? 'application/octet-stream' : 'application/json'},
				body: body === undefined || typeof body === 'string' ? body : JSON.stringify(body)})
			if (!r.ok) throw new Error(path + ': ' + await r.text())
			return r.status === 204 ? null : r.json()
		}
		const name = 'List prices by kind', document = %s
		const known = (await json('GET', '/api/views')).views.find(v => v.name === name)
		const key = known ? known.key : (await json('POST', '/api/views', {name, document, shares: [{}]})).key
		for (const k of (await json('GET', '/api/views/' + key + '/kept')).kept) await json('DELETE', '/api/kept/' + k.key)
		for (const [label, file] of [['The list of spring', %q], ['The list of summer', %q], ['The list of autumn', %q]]) {
			const {id} = await json('POST', '/api/uploads', {file: 'prices.csv', size: new TextEncoder().encode(file).length})
			await json('PUT', '/api/uploads/' + id + '/parts?at=0', file)
			const {recipe} = await json('POST', '/api/uploads/' + id + '/look', {settings: {}, into: 'list_prices'})
			await json('POST', '/api/uploads/' + id + '/read', {recipe, into: 'list_prices'})
			while ((await json('GET', '/api/uploads/' + id)).state === 'reading') await new Promise(go => setTimeout(go, 50))
			await json('POST', '/api/uploads/' + id + '/bring-in', {missing: 'remove'})
			await json('POST', '/api/views/' + key + '/kept', {view: document, name: label})
		}
		window.location.href = '/v/' + key + '/kept'
		return true
	})()`, pricesView, raised(0), raised(1), raised(2)), chromedp.EvalAwaitPromise)(ctx, t)
	return chromedp.Void{}, err
}
