package table

import "sync/atomic"

// identity tells columns and links from all others of this process. What is worked out of some of them holds
// for as long as they are the same ones.
type identity struct{ n atomic.Uint64 }

// identities counts those that were asked for.
var identities atomic.Uint64

// ID is the same whenever it is asked for, and nobody else's.
func (i *identity) ID() uint64 {
	if n := i.n.Load(); n != 0 {
		return n
	}
	i.n.CompareAndSwap(0, identities.Add(1))
	return i.n.Load()
}
