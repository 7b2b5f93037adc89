// Package scheduler shares one machine among the people who ask of it.
//
// A Job is what one request computes. As many jobs as there are seats compute at the
// same time; all others wait. A job looks up between two blocks of records (package
// turn) and makes room if another should go first: one that has waited long, then one
// that has only begun, as most answers take a few milliseconds, then one of whoever has
// used the least lately. So twenty heavy formulas of one person share what is left when
// everybody's small questions are answered.
//
// All jobs book their memory here, too. One person's may take half of it.
package scheduler

import (
	"fmt"
	"math"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"gavrik/internal/core/turn"
)

// Options bound what is computed at the same time.
type Options struct {
	// Seats is how many jobs compute at once. Zero means one for each core, at least 2.
	Seats int
	// Memory is the bytes that all jobs together may book. Zero means 4 GiB.
	Memory int64
	// PerPerson is how many jobs of one person may compute or wait. Zero means 16.
	PerPerson int
	// Patience is how long a job waits for memory. Zero means 10 s.
	Patience time.Duration
	// Now gives the moment. Nil means the machine's clock.
	Now func() time.Time
}

func (o Options) withDefaults() Options {
	if o.Seats == 0 {
		o.Seats = max(2, runtime.GOMAXPROCS(0))
	}
	if o.Memory == 0 {
		o.Memory = 4 << 30
	}
	if o.PerPerson == 0 {
		o.PerPerson = 16
	}
	if o.Patience == 0 {
		o.Patience = 10 * time.Second
	}
	if o.Now == nil {
		o.Now = time.Now
	}
	return o
}

const (
	// quick is for how long a job counts as one that has only begun.
	quick = 30 * time.Millisecond
	// slice is by how much more somebody must have used the machine before her job makes
	// room for another's of the same standing.
	slice = 20 * time.Millisecond
	// aged is after how long a waiting job goes before all others, for a block.
	aged = time.Second
	// remembered is the time in which what somebody has used counts for 1/e of it.
	remembered = 5 * time.Second
	// manyAccounts is from how many on those that say nothing any more are dropped.
	manyAccounts = 1000
)

// BusyError says what is under way, and what to do. It wraps turn.ErrBusy.
type BusyError struct {
	// Own says that it is the person's own work that fills her share.
	Own    bool
	reason string
}

func (e *BusyError) Error() string { return e.reason }

// Unwrap is turn.ErrBusy.
func (e *BusyError) Unwrap() error { return turn.ErrBusy }

// Scheduler decides which jobs compute. Any goroutine may use it.
type Scheduler struct {
	Options
	waiters atomic.Int32 // the length of waiting

	mu       sync.Mutex // protects following fields
	free     int        // seats
	waiting  []*Job
	accounts map[string]*account
	bytes    int64
	freed    chan struct{} // closed when memory is given back
	stats    Stats
}

// Stats counts what was decided.
type Stats struct {
	// Computing and Waiting are jobs, Bytes the memory booked, at this moment.
	Computing, Waiting int
	Bytes              int64
	// Admitted counts the seats given, Refused the jobs that were sent away.
	Admitted, Refused int64
}

// account is what one person uses.
type account struct {
	name  string
	jobs  int
	bytes int64
	used  time.Duration // lately, as of at
	at    time.Time
}

// New returns a scheduler with all seats free.
func New(o Options) *Scheduler {
	o = o.withDefaults()
	return &Scheduler{Options: o, free: o.Seats, accounts: map[string]*account{}, freed: make(chan struct{})}
}

// Enter opens a job of a person's. It takes no seat before it first waits for its turn;
// Leave must end it.
func (s *Scheduler) Enter(person string) *Job {
	s.mu.Lock()
	defer s.mu.Unlock()
	a := s.accounts[person]
	if a == nil {
		s.tidy()
		a = &account{name: person}
		s.accounts[person] = a
	}
	return &Job{s: s, account: a}
}

// tidy drops the accounts of those who have not asked for a while.
func (s *Scheduler) tidy() {
	if len(s.accounts) < manyAccounts {
		return
	}
	now := s.Now()
	for name, a := range s.accounts {
		if a.jobs == 0 && a.bytes == 0 && a.lately(now) < time.Millisecond {
			delete(s.accounts, name)
		}
	}
}

// Stats is a copy of the counts.
func (s *Scheduler) Stats() Stats {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := s.stats
	out.Computing, out.Waiting, out.Bytes = s.Seats-s.free, len(s.waiting), s.bytes
	return out
}

// lately is what somebody has used, the longer ago the less.
func (a *account) lately(now time.Time) time.Duration {
	if a.used == 0 {
		return 0
	}
	return time.Duration(float64(a.used) * math.Exp(-float64(now.Sub(a.at))/float64(remembered)))
}

// standing orders jobs: the least goes first.
func (j *Job) standing(now time.Time) int {
	switch {
	case j.ready != nil && now.Sub(j.since) > aged:
		return 0
	case j.used < quick:
		return 1
	}
	return 2
}

// before says whether a job goes before another; grace is what the other may have used
// more.
func before(a, b *Job, now time.Time, grace time.Duration) bool {
	if x, y := a.standing(now), b.standing(now); x != y {
		return x < y
	}
	x, y := a.account.lately(now), b.account.lately(now)
	if a.account == b.account || grace == 0 && x == y {
		return grace == 0 && a.since.Before(b.since)
	}
	return x+grace < y
}

// best is the waiting job that goes first, or nil.
func (s *Scheduler) best(now time.Time) *Job {
	var best *Job
	for _, j := range s.waiting {
		if best == nil || before(j, best, now, 0) {
			best = j
		}
	}
	return best
}

// fill gives free seats to those who wait.
func (s *Scheduler) fill(now time.Time) {
	for s.free > 0 && len(s.waiting) > 0 {
		j := s.best(now)
		s.drop(j)
		s.free--
		s.stats.Admitted++
		j.since = now
		j.seated.Store(true)
		close(j.ready)
		j.ready = nil
	}
}

// drop takes a job out of those that wait.
func (s *Scheduler) drop(j *Job) {
	s.waiting = slices.DeleteFunc(s.waiting, func(w *Job) bool { return w == j })
	s.waiters.Store(int32(len(s.waiting)))
}

func (s *Scheduler) queue(j *Job, now time.Time) {
	j.ready, j.since = make(chan struct{}), now
	s.waiting = append(s.waiting, j)
	s.waiters.Store(int32(len(s.waiting)))
}

func (s *Scheduler) refuse(own bool, format string, args ...any) error {
	s.stats.Refused++
	return &BusyError{Own: own, reason: fmt.Sprintf(format, args...)}
}
