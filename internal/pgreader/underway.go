package pgreader

import (
	"cmp"
	"context"
	"slices"
	"sync"
	"time"
)

// UnderWay is a question that a database is working on.
type UnderWay struct {
	// Set is the record set that is asked.
	Set string
	// For is how long it has been under way. Parts is how many parts of the table are asked, and Done how many
	// have answered.
	For         time.Duration
	Parts, Done int
	// Expected is how long it may take, by what questions about so many records took before or, of the first
	// one, by what its first records took; zero if nobody knows.
	Expected time.Duration
}

// underWay are the questions that databases are working on, and how fast they worked on others.
type underWay struct {
	mu    sync.Mutex // protects following fields
	asked map[*asked]bool
	// took is how long a record took lately, by record set; that of the empty one is of any.
	took map[string]float64 // in seconds
}

// asked is a question under way; its fields are protected by the mutex of those under way.
type asked struct {
	by    string
	since time.Time
	UnderWay
}

type byKey struct{}

// By is a context of questions that somebody asks, who is told which of them are under way.
func By(ctx context.Context, who string) context.Context { return context.WithValue(ctx, byKey{}, who) }

// Asking are the questions under way of the one whose context it is, the first one first.
func (d *Databases) Asking(ctx context.Context) []UnderWay {
	d.under.mu.Lock()
	defer d.under.mu.Unlock()
	out := []UnderWay{}
	for a := range d.under.asked {
		if by, ok := ctx.Value(byKey{}).(string); ok && a.by == by {
			one := a.UnderWay
			one.For = time.Since(a.since)
			out = append(out, one)
		}
	}
	slices.SortFunc(out, func(a, b UnderWay) int { return cmp.Compare(b.For, a.For) })
	return out
}

// begin notes a question; end is to be called once it has ended, well or not.
func (u *underWay) begin(ctx context.Context, set string, records int64) (a *asked, end func(err error)) {
	a = &asked{since: time.Now(), UnderWay: UnderWay{Set: set}}
	a.by, _ = ctx.Value(byKey{}).(string)
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.asked == nil {
		u.asked, u.took = map[*asked]bool{}, map[string]float64{}
	}
	each := u.took[set]
	if each == 0 {
		each = u.took[""]
	}
	a.Expected = time.Duration(each * float64(records) * float64(time.Second))
	u.asked[a] = true
	return a, func(err error) {
		u.mu.Lock()
		defer u.mu.Unlock()
		delete(u.asked, a)
		if err != nil || records == 0 {
			return
		}
		each := time.Since(a.since).Seconds() / float64(records)
		for _, of := range []string{set, ""} {
			if was := u.took[of]; was > 0 {
				u.took[of] = was + (each-was)/4
			} else {
				u.took[of] = each
			}
		}
	}
}

// unknown says that nobody knows how long a question may take.
func (u *underWay) unknown(a *asked) bool {
	u.mu.Lock()
	defer u.mu.Unlock()
	return a.Expected == 0
}

// expect notes how long it may take.
func (u *underWay) expect(a *asked, d time.Duration) {
	u.mu.Lock()
	defer u.mu.Unlock()
	a.Expected = d
}

// parts notes how many parts are asked, part that one has answered.
func (u *underWay) parts(a *asked, n int) {
	u.mu.Lock()
	defer u.mu.Unlock()
	a.Parts = n
}

func (u *underWay) part(a *asked) {
	u.mu.Lock()
	defer u.mu.Unlock()
	a.Done++
}
