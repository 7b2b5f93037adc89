package store

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

func unsaved(id, state string, revision int) Draft {
	return Draft{
		ID: id, Place: "/new/claims", Title: "New view of claims", State: state, Revision: revision,
		Document: []byte(fmt.Sprintf(`{"gavrik": 1, "records": "claims", "columns": [], "state": %q}`, state)),
	}
}

// Of several tabs that go on with one draft from the same revision one wins; each that
// lost can keep its state under an id of its own, and every state can still be linked to.
func TestTabsDoNotOverwriteEachOther(t *testing.T) {
	s, tamsin, jory := open(t)
	ctx := t.Context()
	revision, err := s.PutDraft(ctx, tamsin, unsaved("draft", "first", 0))
	require.NoError(t, err)
	require.Equal(t, 1, revision)
	outcomes := make([]error, 6)
	var wg sync.WaitGroup
	for i := range outcomes {
		wg.Go(func() {
			_, outcomes[i] = s.PutDraft(context.WithoutCancel(ctx), tamsin, unsaved("draft", fmt.Sprint("tab ", i), 1))
		})
	}
	wg.Wait()
	won := 0
	for i, err := range outcomes {
		if err == nil {
			won++
			continue
		}
		require.ErrorIs(t, err, ErrStale)
		_, err = s.State(ctx, fmt.Sprint("tab ", i))
		require.ErrorIs(t, err, ErrNotFound, "what was refused left nothing")
		_, err = s.PutDraft(ctx, tamsin, unsaved(fmt.Sprint("own ", i), fmt.Sprint("tab ", i), 0))
		require.NoError(t, err)
	}
	require.Equal(t, 1, won)
	mine, err := s.Drafts(ctx, tamsin, "/new/claims")
	require.NoError(t, err)
	require.Len(t, mine, len(outcomes))
	for i := range outcomes {
		st, err := s.State(ctx, fmt.Sprint("tab ", i))
		require.NoError(t, err)
		require.Equal(t, "Tamsin Marlow", st.ByName)
		require.Contains(t, string(st.Document), fmt.Sprintf(`"tab %d"`, i))
	}

	// A state is for ever what it was, whoever would have it otherwise; who goes back to
	// what a link led to keeps that.
	forged := unsaved("linked", "first", 0)
	_, err = s.PutDraft(ctx, jory, forged)
	require.NoError(t, err)
	require.NoError(t, s.DropDraft(ctx, jory, "linked"))
	forged.Document = []byte(`{"gavrik": 1, "records": "bookings", "columns": []}`)
	_, err = s.PutDraft(ctx, tamsin, forged)
	require.ErrorIs(t, err, ErrTaken)

	// Old states go once no draft holds them, unless a link to them was copied.
	require.NoError(t, s.KeepState(ctx, "first"))
	require.ErrorIs(t, s.KeepState(ctx, "nowhere"), ErrNotFound)
	_, err = s.pool.Exec(ctx, "UPDATE states SET made_at = now() - interval '91 days'")
	require.NoError(t, err)
	require.NoError(t, s.DropDraft(ctx, tamsin, "own 0"))
	require.NoError(t, s.DropDraft(ctx, tamsin, "own 1"))
	_, err = s.PutDraft(ctx, jory, unsaved("hers", "of today", 0))
	require.NoError(t, err)
	var left int
	require.NoError(t, s.pool.QueryRow(ctx, "SELECT count(*) FROM states").Scan(&left))
	held, err := s.Drafts(ctx, tamsin, "")
	require.NoError(t, err)
	require.Equal(t, len(held)+2, left)
	_, err = s.State(ctx, "first")
	require.NoError(t, err)
}

// A view is read by its name or key without a store, binned ones are not, and a name
// that several have decides nothing.
func TestReadViewByName(t *testing.T) {
	s, tamsin, _ := open(t)
	ctx, url := t.Context(), s.pool.Config().ConnString()
	key, err := s.AddView(ctx, tamsin, version("late"))
	require.NoError(t, err)
	for _, named := range []string{"late", key} {
		_, doc, err := ReadView(ctx, url, named)
		require.NoError(t, err)
		require.JSONEq(t, string(version("late").Document), string(doc))
	}
	other, err := s.AddView(ctx, tamsin, version("late"))
	require.NoError(t, err)
	_, _, err = ReadView(ctx, url, "late")
	require.ErrorIs(t, err, ErrTaken)
	require.NoError(t, s.BinView(ctx, tamsin, other))
	_, _, err = ReadView(ctx, url, "late")
	require.NoError(t, err)
	_, _, err = ReadView(ctx, url, other)
	require.ErrorIs(t, err, ErrNotFound)
}
