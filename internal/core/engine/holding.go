// Which fields have values that hold a text.

package engine

import (
	"context"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/turn"
)

// heldValues is how many values are named.
const heldValues = 3

// Holding says which of some stored fields have values that hold a text, without
// regard to case and accents, in the order given. A field that several paths lead to
// is looked through once.
func (e *Engine) Holding(ctx context.Context, refs []catalog.Ref, text string) ([]result.Held, error) {
	mine := turn.Of(ctx)
	defer mine.Rest()
	want := table.Fold(text)
	if want == "" {
		return nil, nil
	}
	var out []result.Held
	looked := map[table.Column]result.Held{}
	for _, ref := range refs {
		if err := mine.Wait(ctx); err != nil {
			return nil, kernel.Stopped(err)
		}
		if ref.Field.Type != catalog.Text {
			continue
		}
		col, err := e.source.Stored(ref.Set, ref.Field.Key)
		if err != nil {
			return nil, err
		}
		texts, ok := col.(*table.Texts)
		if !ok {
			continue
		}
		held, known := looked[col]
		if !known {
			texts.Dict.EachFoldedWithin(want, 1, uint32(texts.Dict.Len()), func(code uint32) {
				if held.Found++; len(held.Values) < heldValues {
					held.Values = append(held.Values, texts.Dict.Value(code))
				}
			})
			looked[col] = held
		}
		if held.Ref = ref; held.Found > 0 {
			out = append(out, held)
		}
	}
	return out, nil
}
