package demo

import (
	"context"
	"encoding/json"

	"gavrik/internal/core/board"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// addBoard puts parts of several views on one sheet, for the start of the week. keys are those of the views, by
// name.
func addBoard(ctx context.Context, s *store.Store, owner int64, keys map[string]string) error {
	ages, late := keys["Open claims by age"], keys["Late sailings, last 30 days"]
	fares, months, crossings := keys["Fares by route and month"], keys["Claims by month"], keys["Passengers by vessel"]
	doc, err := json.Marshal(board.Board{Gavrik: board.Version, Parts: []board.Part{
		{Key: "owed", Show: board.Figure, View: ages, Field: "claimed", Fn: view.Sum, Heading: "Open claims"},
		{Key: "late", Show: board.Figure, View: late, Count: true, Heading: "Late sailings"},
		{Key: "passengers", Show: board.Figure, View: crossings, Heading: "Passengers, last month"},
		{
			Key: "words", Show: board.Text, Wide: 3, High: 3,
			Text: "**Mondays at 8:00.** Late sailings first; claims over *90 days* go to the claims desk.",
		},
		{Key: "fares", Show: board.Chart, View: fares, Wide: 8},
		{Key: "waiting", Show: board.Groups, View: ages, Wide: 4},
		{Key: "vessels", Show: board.Groups, View: crossings, Wide: 6, High: 7},
		{Key: "months", Show: board.Chart, View: months, Wide: 6, High: 7},
		{Key: "sailings", Show: board.Table, View: late, Lines: 12, Page: true},
	}})
	if err != nil {
		return err
	}
	key, err := s.AddView(ctx, owner, store.NewVersion{
		Name: "Start of the week", Description: "What the office looks at on Mondays.", Document: doc,
		Kind: store.BoardKind,
	}, store.WithEveryone)
	if err != nil {
		return err
	}
	return s.SetFavorite(ctx, owner, key, store.Whose{Everyone: true}, true)
}
