package table

import "sync/atomic"

// room is the memory behind a slice that later versions of a column share. Rows that are added go where
// nobody reads yet; only the newest version may add there, every other writes its rows anew.
type room struct{ taken atomic.Int64 }

// extended is a slice with further values behind it, in the same memory where there is room and nobody has
// taken it, and with the room of the outcome.
func extended[T any](have []T, in *room, more []T) ([]T, *room) {
	end := len(have) + len(more)
	if in != nil && end <= cap(have) && in.taken.CompareAndSwap(int64(len(have)), int64(end)) {
		out := have[:end]
		copy(out[len(have):], more)
		return out, in
	}
	// Room for as many again as are usual between two loads.
	out := make([]T, end, end+end/64+64)
	copy(out, have)
	copy(out[len(have):], more)
	return out, newRoom(end)
}

func newRoom(taken int) *room {
	r := &room{}
	r.taken.Store(int64(taken))
	return r
}
