package journey

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// written writes a file to be brought in.
func written(t *testing.T, name, text string) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

// An analyst brings a price list in, mends a row that was kept aside, and sees its values; the list is
// changed and brought in again, as a spreadsheet this time.
func TestAPriceListBroughtInChangedAndBroughtInAgain(t *testing.T) {
	g, p := harness.Start(t), open(t)
	list := "Prices of the harbour office\nItem;Group;Price EUR;Valid from\n" +
		"Adult;Fare;9,50;3/4/2026\nChild;Fare;4,00;3/4/2026\nVan;Car;36,00;5/6/2026\nLorry;Car;on request;5/6/2026\n" +
		"Dog;Fare;6,00;3/4/2026\nSupper;Meal;16,90;3/4/2026\nBreakfast;Meal;11,50;3/4/2026\nBicycle;Fare;5,00;3/4/2026\nKennel;Fare;8,00;3/4/2026\n"
	choose := func(css, value string) {
		p.until(`(s => { if (!s || ![...s.options].some(o => o.value === '` + value + `')) return false; s.value = '` + value +
			`'; s.dispatchEvent(new Event('change')); return true })(document.querySelector('` + css + `'))`)
	}
	p.do(browser.SignIn(g.URL, demo.People[1].Email, demo.Password), clickText("Records"), click(`[data-bring-in-file]`), see(`[data-drop]`))
	p.axe("where a file is dropped")
	p.do(
		chromedp.SetUploadFiles(chromedp.CSS(`[data-file]`), []string{written(t, "office-prices.csv", list)}),
		see(`[data-field="Item"][data-type="text"]`), see(`[data-field="Price EUR"][data-type="money"]`),
		see(`[data-field="Valid from"][data-type="text"] [data-open]`),
	)
	p.says(`[data-field="Price EUR"]`, "1 value does not fit: “on request” in line 6")
	p.says(`[data-field="Valid from"]`, "Could be as 23/11/2026 or as 11/23/2026?")
	p.axe("the look at a file")
	p.do(click(`[data-field="Valid from"] [data-open] button`), see(`[data-field="Valid from"][data-type="date"]`),
		click(`[data-field="Group"] [name=key]`))
	p.says(`[data-repeats]`, "5 rows repeat the key of an earlier one")
	p.do(click(`[data-field="Group"] [name=key]`), click(`[data-field="Item"] [name=key]`))
	p.until(`!document.querySelector('[data-repeats]') && document.querySelector('[data-field=Item] [name=key]').checked`)
	// A column that leads to other records.
	p.do(click(`[data-field="Item"] button[aria-label$="to other records"]`))
	choose(`[data-field="Item"] [name=link-to]`, "list_prices")
	choose(`[data-field="Item"] [name=link-into]`, "item")
	p.says(`[data-unmatched]`, "1 value leads nowhere (1 row): Kennel")

	p.do(click(`[data-read]`), see(`[data-review]`))
	p.says(`[data-review]`, "8 rows are read, 1 is kept aside")
	p.says(`[data-rejects]`, `"on request" is not a number written as 1.234,56`)
	p.axe("what comes in")
	require.Equal(t, "0", g.Ask(t, "SELECT count(*)::text FROM pg_class WHERE relname = 'office_prices'"), "nothing is written yet")
	p.do(p.put(`[name=one]`, "office price"), click(`[data-bring]`), see(`[data-came-as-file]`))
	p.says(`[data-came-as-file]`, "Jory Hale brought them in as office-prices.csv")

	// The row that was kept aside is mended where it stands.
	p.do(click(`[data-asides]`), see(`[data-aside-rows] input`),
		p.put(`[data-aside-rows] input`, "Lorry;Car;90,00;5/6/2026"), click(`[data-mend]`))
	p.until(`!document.querySelector('[data-asides]')`)
	p.axe("records that came as a file")
	p.do(clickText("Start a view"))
	p.settled()
	p.says(`[data-ledger]`, "Lorry")

	// The later list, as a spreadsheet: one price is another, one is new, and two items are gone.
	book := excelize.NewFile()
	for i, row := range [][]any{
		{"Item", "Price EUR"}, {"Adult", 9.75}, {"Child", 4}, {"Van", 36}, {"Lorry", 90}, {"Dog", 6}, {"Supper", 16.9}, {"Trailer", 21.5}, {"Kennel", 8},
	} {
		require.NoError(t, book.SetSheetRow("Sheet1", "A"+string(rune('1'+i)), &row))
	}
	later := filepath.Join(t.TempDir(), "prices of summer.xlsx")
	require.NoError(t, book.SaveAs(later))
	p.do(chromedp.Navigate(g.URL+"/records?set=office_prices"), see(`[data-came-as-file]`),
		chromedp.SetUploadFiles(chromedp.CSS(`[data-later-file]`), []string{later}), see(`[data-field="Valid from"][data-type="out"]`),
		see(`[data-field="Price EUR"][data-type="money"]`))
	p.says(`[data-field="Valid from"]`, "not in this file")
	p.says(`[data-field="Price EUR"]`, "9.75")
	require.Empty(t, p.text(`[data-misfits]`), "a spreadsheet has no habits of writing numbers")
	p.do(click(`[data-read]`), see(`[data-differences]`))
	for kind, n := range map[string]string{"new": "1 new", "changed": "1 changed", "same": "6 as they are", "missing": "2 not in the file"} {
		p.says(`[data-`+kind+`]`, n)
	}
	p.says(`[data-differences]`, "Breakfast")
	p.axe("what a later file changes")
	p.do(click(`[name=missing][value=remove]`), click(`[data-bring]`), see(`[data-came-as-file]`))
	p.says(`[data-came-as-file]`, "prices of summer.xlsx")
	require.Equal(t, "Adult 9.75 2026-04-03, Child 4 2026-04-03, Dog 6 2026-04-03, Kennel 8 2026-04-03, Lorry 90 2026-06-05, "+
		"Supper 16.9 2026-04-03, Trailer 21.5 , Van 36 2026-06-05",
		g.Ask(t, "SELECT string_agg(concat(item, ' ', trim_scale(price), ' ', valid_from), ', ' ORDER BY item) FROM gavrik_files.office_prices"))
	p.do(clickText("Start a view"))
	p.settled()
	p.says(`[data-ledger]`, "Trailer")

	// They go, and nobody else has ever seen them.
	p.do(chromedp.NavigateBack(), see(`[data-came-as-file]`), click(`[data-remove-set]`), click(`[data-remove-now]`))
	p.until(`!document.querySelector('[data-came-as-file]') && !document.body.innerText.includes('Office prices')`)
}
