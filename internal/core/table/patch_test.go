package table

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// record is a row as the test keeps it.
type record struct {
	key    int64
	number int64
	float  float64
	text   string
	note   string
	link   int32
}

// columnsOf builds columns as a loader does.
func columnsOf(all []record) (key, number, float, text, note Column) {
	keys, numbers, floats := []int64{}, []int64{}, []float64{}
	texts, notes := NewDictBuilder(), NewDictBuilder()
	codes, noteCodes := []uint32{}, []uint32{}
	for _, r := range all {
		keys, numbers, floats = append(keys, r.key), append(numbers, r.number), append(floats, r.float)
		codes, noteCodes = append(codes, texts.CodeOf(r.text)), append(noteCodes, notes.CodeOf(r.note))
	}
	return NewNumbers(keys), NewNumbers(numbers), NewFloats(floats), texts.Build(codes), notes.Build(noteCodes)
}

// version is a table at one moment, and what it must hold.
type version struct {
	all                            []record
	key, number, float, text, note Column
	links                          *Links
}

func newVersion(all []record) *version {
	v := &version{all: all, links: &Links{To: "self", Rows: []int32{}}}
	v.key, v.number, v.float, v.text, v.note = columnsOf(all)
	for _, r := range all {
		v.links.Rows = append(v.links.Rows, r.link)
	}
	return v
}

// next applies random changes, both to the records and as a patch to the columns.
func (v *version) next(t *rapid.T, draw func(key int64) record) *version {
	var fresh, added, after []record
	p := &Patch{Rows: len(v.all)}
	free := map[int64]bool{}
	for row, r := range v.all {
		switch rapid.SampledFrom([]string{"stays", "stays", "stays", "goes", "changes"}).Draw(t, "row") {
		case "goes":
			p.Gone = append(p.Gone, int32(row))
			free[r.key] = true
		case "changes":
			was := r
			if r = draw(r.key); rapid.Bool().Draw(t, "text stays") {
				r.text, r.note = was.text, was.note
			}
			p.Changed, fresh, after = append(p.Changed, int32(row)), append(fresh, r), append(after, r)
		default:
			after = append(after, r)
		}
	}
	has := map[int64]bool{}
	for _, r := range v.all {
		has[r.key] = true
	}
	for range rapid.IntRange(0, 4).Draw(t, "added") {
		k := rapid.Int64Range(0, 60).Draw(t, "key")
		if rapid.Bool().Draw(t, "at the end") {
			k += 60
		}
		if !has[k] {
			has[k] = true
			added = append(added, draw(k))
		}
	}
	slices.SortFunc(added, func(a, b record) int { return cmp.Compare(a.key, b.key) })
	keys, _, _, _, _ := columnsOf(added)
	key, ok := NewKey([]Column{v.key})
	require.True(t, ok)
	found, places := key.Find([]Column{keys})
	for i := range added {
		require.Equal(t, int32(-1), found[i], "it is new")
	}
	p.Added = places
	after = append(after, added...)
	slices.SortFunc(after, func(a, b record) int { return cmp.Compare(a.key, b.key) })

	// Links lead to rows of the same table, by their keys.
	moved := p.Moved()
	for i := range after {
		after[i].link = -1
	}
	where := map[int64]int32{}
	for i, r := range after {
		where[r.key] = int32(i)
	}
	links := make([]int32, 0, p.Fresh())
	values := slices.Concat(fresh, added)
	for range values {
		links = append(links, rapid.Int32Range(-1, int32(max(len(after)-1, 0))).Draw(t, "link"))
		if len(after) == 0 {
			links[len(links)-1] = -1
		}
	}
	want := map[int64]int32{}
	for row, r := range v.all {
		if to := v.all[row].link; to < 0 {
			want[r.key] = -1
		} else if now, there := where[v.all[to].key]; there {
			want[r.key] = now
		} else {
			want[r.key] = -1
		}
	}
	for i, r := range values {
		want[r.key] = links[i]
	}
	for i, r := range after {
		after[i].link = want[r.key]
	}
	k, n, f, x, o := columnsOf(values)
	return &version{
		after, p.Patched(v.key, k), p.Patched(v.number, n), p.Patched(v.float, f), p.Patched(v.text, x), p.Patched(v.note, o),
		v.links.Patched(p, links, moved),
	}
}

// digests are those of all that it has.
func (v *version) digests() (out [6]uint64) {
	for i, c := range []Column{v.key, v.number, v.float, v.text, v.note} {
		out[i] = c.Digest()
	}
	out[5] = v.links.Digest()
	return out
}

// holds checks a version against one that is built of the same records.
func (v *version) holds(t require.TestingT) {
	anew := newVersion(v.all)
	require.Equal(t, anew.key.(*Numbers).Values, v.key.(*Numbers).Values)
	mine, theirs := v.number.(*Numbers), anew.number.(*Numbers)
	require.Equal(t, theirs.Values, mine.Values)
	require.Equal(t, [4]int64{theirs.min, theirs.max, theirs.step, int64(theirs.blanks)},
		[4]int64{mine.min, mine.max, mine.step, int64(mine.blanks)})
	for i, f := range v.float.(*Floats).Values {
		require.Equal(t, math.Float64bits(v.all[i].float), math.Float64bits(f))
	}
	require.Equal(t, anew.float.Blanks(), v.float.Blanks())
	require.Equal(t, anew.links.Rows, v.links.Rows)
	require.Equal(t, anew.digests(), v.digests(), "two servers that read it say so")
	for _, pair := range [][2]Column{{v.text, anew.text}, {v.note, anew.note}} {
		mine, theirs := pair[0].(*Texts), pair[1].(*Texts)
		require.Equal(t, theirs.blanks, mine.blanks)
		require.Equal(t, theirs.Dict.Len(), mine.Dict.Len(), "a dictionary holds the texts of its rows alone")
		ordered, anew := mine.InOrder(), theirs.InOrder()
		require.Equal(t, anew.Codes, ordered.Codes, "in label order, every code is the same")
		for code := uint32(0); code < uint32(anew.Dict.Len()); code++ {
			text := anew.Dict.Value(code)
			require.Equal(t, text, ordered.Dict.Value(code))
			require.Equal(t, Fold(text), ordered.Dict.Folded(code))
			// What is in no order is looked through from end to end for each.
			if code > 0 && (!mine.Dict.unordered || code%5000 == 1) {
				found := mine.Dict.FindFolded(nil, Fold(text))
				require.Contains(t, valuesOf(mine.Dict, found), text)
			}
		}
		require.Empty(t, mine.Dict.FindFolded(nil, "nobody wrote this"))
		if !mine.Dict.unordered {
			require.Equal(t, theirs.unique, mine.unique)
			for code := uint32(1); mine.unique && code < uint32(mine.Dict.Len()); code++ {
				row, _ := mine.RowOf(code)
				require.Equal(t, code, mine.Codes[row])
			}
		}
	}
}

// However many changes came one upon another, a table is what a load would have made of its records; and
// those of before stay what they were, for whoever still reads them.
func TestAPatchedTableIsOneBuiltAnew(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SampledFrom([]string{
			"", "Route 2", "route 2", "Route 10", "Éden", "eden", "a", "B", "Zoë", "07", "7", "Pier 3 North", "x",
		})
		number := rapid.SampledFrom(
			[]int64{Blank, 0, 5, 10, 1000, 2000, -500, math.MaxInt64, math.MinInt64 + 1, 12_345},
		)
		draw := func(key int64) record {
			r := record{key: key, number: number.Draw(t, "number"), text: text.Draw(t, "text"), link: -1}
			r.float = rapid.SampledFrom([]float64{0, 1.5, math.NaN(), -2, math.Copysign(0, -1)}).Draw(t, "float")
			r.note = text.Draw(t, "a") + " " + text.Draw(t, "b")
			return r
		}
		var all []record
		for key := range int64(rapid.IntRange(0, 12).Draw(t, "rows")) {
			all = append(all, draw(key*3))
		}
		versions := []*version{newVersion(all)}
		for range rapid.IntRange(1, 5).Draw(t, "versions") {
			versions = append(versions, versions[len(versions)-1].next(t, draw))
		}
		if rapid.Bool().Draw(t, "fork") { // a second one upon the same
			versions = append(versions, versions[max(0, len(versions)-2)].next(t, draw))
		}
		for _, v := range versions {
			v.holds(t)
		}
	})
}

// large is a table of many texts: with an index, each of one row, in no order, and with accents.
func large(n int, accent string) *version {
	all := make([]record, n)
	for i := range all {
		all[i] = record{
			key: int64(10 * i), number: int64(i % 1000 * 25), float: float64(i), link: int32(i / 2),
			text: fmt.Sprintf("Ref%s %d", accent, i*7919%n),
			note: fmt.Sprintf("Left At The Quay %d", i/3) + strings.Repeat(" again", 6),
		}
	}
	return newVersion(all)
}

func TestAPatchOfManyTexts(t *testing.T) {
	for _, accent := range []string{"", "é"} {
		v := large(3*manyTexts+300, accent)
		require.True(t, v.note.(*Texts).Dict.unordered)
		all := slices.Clone(v.all)
		p := &Patch{
			Rows: len(all), Gone: []int32{0, 77, 60_000}, Changed: []int32{1, 4000},
			Added: []int32{5, int32(len(all))},
		}
		changed := []record{
			{key: 10, text: all[60_000].text, note: all[3].note}, {
				key: 40_000, text: "Entirely new", note: "Never written before " + strings.Repeat("so ", 20),
			},
			{key: 45, text: "aaa", note: ""}, {key: 1 << 40, text: "REF 5x", note: all[500].note},
		}
		moved := p.Moved()
		links := []int32{3, 4, -1, 5}
		k, n, f, x, o := columnsOf(changed)
		after := make([]record, 0, len(all))
		for row, r := range all {
			if row == 5 {
				after = append(after, changed[2])
			}
			if i, ok := slices.BinarySearch(p.Changed, int32(row)); ok {
				r = changed[i]
				r.link = links[i]
			} else if r.link >= 0 {
				r.link = moved[r.link]
			}
			if !slices.Contains(p.Gone, int32(row)) {
				after = append(after, r)
			}
		}
		after = append(after, changed[3])
		for i := range after {
			switch after[i].key {
			case 45:
				after[i].link = links[2]
			case 1 << 40:
				after[i].link = links[3]
			}
		}
		next := &version{
			after, p.Patched(v.key, k), p.Patched(v.number, n), p.Patched(v.float, f), p.Patched(v.text, x), p.Patched(v.note, o),
			v.links.Patched(p, links, moved),
		}
		next.holds(t)
		v.holds(t)
		for i, sum := range v.digests() {
			require.NotEqual(t, sum, next.digests()[i], "of other values")
		}
	}
}

// Rows stand in the order of their keys, whatever they are made of, and are found by them.
func TestKeys(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 30).Draw(t, "rows")
		var numbers []int64
		texts, codes := NewDictBuilder(), []uint32{}
		type pair struct {
			text   string
			number int64
		}
		drawn := func() pair {
			return pair{
				rapid.SampledFrom([]string{"a 10", "A 2", "a 2", "É", "z"}).Draw(t, "text"),
				rapid.Int64Range(0, 6).Draw(t, "number"),
			}
		}
		have := map[pair]bool{}
		for range n {
			if p := drawn(); !have[p] {
				have[p] = true
				numbers, codes = append(numbers, p.number), append(codes, texts.CodeOf(p.text))
			}
		}
		columns := []Column{texts.Build(codes), NewNumbers(numbers)}
		k, ok := NewKey(columns)
		require.True(t, ok)
		order, ok := k.Order()
		require.True(t, ok)
		if order != nil {
			for i, c := range columns {
				columns[i] = Reordered(c, order)
			}
			k, _ = NewKey(columns)
			order, ok = k.Order()
			require.True(t, ok && order == nil, "now they stand in it")
		}
		asked, askedCodes := NewDictBuilder(), []uint32{}
		var askedNumbers []int64
		var pairs []pair
		for range 8 {
			p := drawn()
			if rapid.Bool().Draw(t, "unknown") {
				p.text = rapid.SampledFrom([]string{"0", "a 3", "É2", "zz"}).Draw(t, "other")
			}
			pairs, askedNumbers = append(pairs, p), append(askedNumbers, p.number)
			askedCodes = append(askedCodes, asked.CodeOf(p.text))
		}
		rows, places := k.Find([]Column{asked.Build(askedCodes), NewNumbers(askedNumbers)})
		at := func(row int) pair {
			c := columns[0].(*Texts)
			return pair{c.Dict.Value(c.Codes[row]), columns[1].(*Numbers).Values[row]}
		}
		before := func(a, b pair) bool {
			if c := CompareNatural(Fold(a.text), Fold(b.text)); c != 0 {
				return c < 0
			}
			return a.text < b.text || a.text == b.text && a.number < b.number
		}
		for i, p := range pairs {
			want, place := int32(-1), int32(0)
			for row := range len(have) {
				if at(row) == p {
					want = int32(row)
				}
				if before(at(row), p) {
					place++
				}
			}
			require.Equal(t, want, rows[i])
			require.Equal(t, place, places[i])
		}
	})
	numbers := []Column{NewNumbers([]int64{3, 1, 3})}
	k, ok := NewKey(numbers)
	require.True(t, ok)
	_, ok = k.Order()
	require.False(t, ok, "two rows of one key are not told apart")
	_, ok = NewKey([]Column{NewNumbers([]int64{3, Blank})})
	require.False(t, ok)
	_, ok = NewKey([]Column{NewFloats([]float64{1})})
	require.False(t, ok)
}

// BenchmarkPatch is what a change of one record costs in a table of 1,000,000 of fifteen columns, four of
// them with a text of its own for each row.
func BenchmarkPatch(b *testing.B) {
	const n = 1_000_000
	var columns []Column
	one := func(more int64) []Column { // the fresh row
		out := []Column{NewNumbers([]int64{n + more})}
		for range 7 {
			out = append(out, NewNumbers([]int64{more}))
		}
		for i := range 7 {
			d := NewDictBuilder()
			text := "Kind 3"
			if i < 4 {
				text = fmt.Sprintf("New %d", more)
			}
			out = append(out, d.Build([]uint32{d.CodeOf(text)}))
		}
		return out
	}
	keys := make([]int64, n)
	for i := range keys {
		keys[i] = int64(i)
	}
	columns = append(columns, NewNumbers(keys))
	for c := range 7 {
		values := make([]int64, n)
		for i := range values {
			values[i] = int64(rand.IntN(1000 * (c + 1)))
		}
		columns = append(columns, NewNumbers(values))
	}
	for c := range 7 {
		d, codes := NewDictBuilder(), make([]uint32, n)
		for i := range codes {
			switch {
			case c == 3:
				codes[i] = d.CodeOf(fmt.Sprintf("A Note That Somebody Has Written About This %d", i))
			case c < 3:
				codes[i] = d.CodeOf(fmt.Sprintf("BK-%08d", i*7919%n))
			default:
				codes[i] = d.CodeOf(fmt.Sprintf("Kind %d", i%20))
			}
		}
		columns = append(columns, d.Build(codes))
	}
	for _, c := range []struct {
		name  string
		patch func(rows int) *Patch
		few   bool // the texts stay
	}{
		{"added", func(rows int) *Patch { return &Patch{Rows: rows, Added: []int32{int32(rows)}} }, false},
		{"amounts changed", func(rows int) *Patch { return &Patch{Rows: rows, Changed: []int32{n / 2}} }, true},
		{"all changed", func(rows int) *Patch { return &Patch{Rows: rows, Changed: []int32{n / 2}} }, false},
		{"put between", func(rows int) *Patch { return &Patch{Rows: rows, Added: []int32{n / 2}} }, false},
		{"removed", func(rows int) *Patch { return &Patch{Rows: rows, Gone: []int32{n / 2}} }, false},
	} {
		b.Run(c.name, func(b *testing.B) {
			now := slices.Clone(columns)
			kept := make([]Column, len(columns)) // fresh rows that the changes have in common
			for i, col := range columns {
				kept[i] = only(col, c.patch(n).Changed)
			}
			b.ReportAllocs()
			for i := int64(0); b.Loop(); i++ {
				p := c.patch(now[0].Len())
				fresh := one(i)
				if len(p.Gone) > 0 {
					fresh = kept
				} else if c.few {
					copy(fresh[4:], kept[4:])
				}
				for i, col := range now {
					now[i] = p.Patched(col, fresh[i])
				}
			}
		})
	}
}
