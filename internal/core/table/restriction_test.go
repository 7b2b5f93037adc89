package table

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Rows of a large column say the same after a cut, whichever way its texts are kept: by
// an index, in no order yet, without a capital, with accents; and are found as before.
func TestACutOfManyTexts(t *testing.T) {
	const n = manyTexts + 200
	for name, text := range map[string]string{
		"short": "Ref %d", "long": "Ref %d" + strings.Repeat(" At The Quay", 4),
		"long and small": "ref %d" + strings.Repeat(" at the quay", 4), "accents": "Éden %d",
	} {
		t.Run(name, func(t *testing.T) {
			b, codes := NewDictBuilder(), make([]uint32, n)
			var rows []int32
			for i := range n {
				codes[i] = b.CodeOf(fmt.Sprintf(text, i*7919%n))
				if i%3 == 0 {
					rows = append(rows, int32(i))
				}
			}
			made := New("refs", n)
			made.Add("ref", b.Build(codes))
			snap := &Snapshot{Tables: map[string]*Table{"refs": made}}
			left := snap.Restricted(map[string]Restriction{"refs": {Rows: rows}}, nil).Tables["refs"]
			before, after := made.Column("ref").(*Texts), left.Column("ref").(*Texts)
			require.Equal(t, len(rows), left.Rows)
			require.Equal(t, len(rows)+1, after.Dict.Len(), "no text of another row is kept")
			for i, r := range rows {
				require.Equal(t, before.Dict.Value(before.Codes[r]), after.Dict.Value(after.Codes[i]))
			}
			gone, kept := fmt.Sprintf(text, 7919%n), fmt.Sprintf(text, 0)
			require.Empty(t, after.Dict.FindFolded(nil, Fold(gone)))
			require.Equal(t, []string{kept}, valuesOf(after.Dict, after.Dict.FindFolded(nil, Fold(kept))))
			ordered := after.InOrder()
			last := ""
			for code := uint32(1); code < uint32(ordered.Dict.Len()); code++ {
				require.Negative(t, CompareNatural(last, ordered.Dict.Folded(code)))
				last = ordered.Dict.Folded(code)
			}
			require.Nil(
				t,
				snap.Restricted(
					map[string]Restriction{"refs": {Fields: []string{"ref"}}}, nil,
				).Tables["refs"].Column("ref"),
			)
			require.Same(
				t, before, snap.Restricted(nil, nil).Tables["refs"].Column("ref"), "what is kept whole is shared",
			)
		})
	}
}
