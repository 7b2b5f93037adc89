package scheduler

import (
	"context"
	"sync/atomic"
	"time"
)

// Job is what one request computes. It is its turn.Turn.
type Job struct {
	s       *Scheduler
	account *account
	seated  atomic.Bool

	// The scheduler's mutex protects following fields.
	counted bool          // among the person's jobs
	ready   chan struct{} // not nil while it waits; closed when it has a seat
	since   time.Time     // when it began to wait, or was seated or last settled
	used    time.Duration
	bytes   int64
}

// Wait returns once the job has a seat and nobody should go before it.
func (j *Job) Wait(ctx context.Context) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	if j.seated.Load() && j.s.waiters.Load() == 0 {
		return nil
	}
	ready, err := j.ask()
	if ready == nil || err != nil {
		return err
	}
	select {
	case <-ready:
		return ctx.Err()
	case <-ctx.Done():
		j.giveUp(ready)
		return ctx.Err()
	}
}

// ask takes a seat or keeps it, and returns nil, or returns what to wait for.
func (j *Job) ask() (<-chan struct{}, error) {
	s := j.s
	s.mu.Lock()
	defer s.mu.Unlock()
	now := s.Now()
	if !j.counted {
		if j.account.jobs >= s.PerPerson {
			return nil, s.refuse(true, "%d of your questions are being worked on already; "+
				"wait for one of them to end, or close what you do not need", j.account.jobs)
		}
		j.account.jobs++
		j.counted = true
	}
	switch {
	case j.seated.Load():
		j.settle(now)
		first := s.best(now)
		if first == nil || !before(first, j, now, slice) {
			return nil, nil
		}
		j.unseat()
		s.queue(j, now)
	case j.ready == nil:
		s.queue(j, now)
	default: // another goroutine of the job waits already
		return j.ready, nil
	}
	ready := j.ready
	s.fill(now)
	if j.seated.Load() {
		return nil, nil
	}
	return ready, nil
}

// settle counts the time since the job was seated.
func (j *Job) settle(now time.Time) {
	took := now.Sub(j.since)
	j.since = now
	j.used += took
	j.account.used, j.account.at = j.account.lately(now)+took, now
}

func (j *Job) unseat() {
	j.seated.Store(false)
	j.s.free++
}

// giveUp stops waiting, unless a seat was given meanwhile.
func (j *Job) giveUp(ready <-chan struct{}) {
	j.s.mu.Lock()
	defer j.s.mu.Unlock()
	if j.ready == ready {
		j.s.drop(j)
		close(j.ready) // other goroutines of the job find out that it is over
		j.ready = nil
	}
}

// Rest gives the seat to others until the next Wait.
func (j *Job) Rest() {
	if !j.seated.Load() {
		return
	}
	j.s.mu.Lock()
	defer j.s.mu.Unlock()
	if j.seated.Load() {
		now := j.s.Now()
		j.settle(now)
		j.unseat()
		j.s.fill(now)
	}
}

// Leave ends the job.
func (j *Job) Leave() {
	j.Rest()
	_ = j.Book(context.Background(), -j.bytesBooked()) // giving back is never refused
	j.s.mu.Lock()
	defer j.s.mu.Unlock()
	if j.counted {
		j.account.jobs--
		j.counted = false
	}
}

func (j *Job) bytesBooked() int64 {
	j.s.mu.Lock()
	defer j.s.mu.Unlock()
	return j.bytes
}

// Book takes memory, waiting a while for others to give theirs back, or gives it back.
func (j *Job) Book(ctx context.Context, bytes int64) error {
	freed, err := j.take(bytes, false)
	if freed == nil {
		return err
	}
	j.Rest()
	patience := time.NewTimer(j.s.Patience)
	defer patience.Stop()
	for freed != nil {
		last := false
		select {
		case <-freed:
		case <-ctx.Done():
			return ctx.Err()
		case <-patience.C:
			last = true
		}
		freed, err = j.take(bytes, last)
	}
	return err
}

// take books bytes, or returns what to wait for; if it is the last try, or if waiting
// would not help, an error.
func (j *Job) take(bytes int64, last bool) (freed <-chan struct{}, err error) {
	s := j.s
	s.mu.Lock()
	defer s.mu.Unlock()
	share := s.Memory / 2
	others := j.account.bytes - j.bytes
	switch {
	case bytes <= 0:
		close(s.freed)
		s.freed = make(chan struct{})
	case j.bytes+bytes > share:
		return nil, s.refuse(true, "this needs more than %d MB of memory, which is the most that one question may take; "+
			"filter first, or group by something coarser", share>>20)
	case j.account.bytes+bytes > share && last:
		return nil, s.refuse(true, "your other questions take %d MB of memory just now; wait for them to end",
			others>>20)
	case s.bytes+bytes > s.Memory && last:
		return nil, s.refuse(false, "the memory for questions is taken by those of others just now; "+
			"try again in a moment")
	case j.account.bytes+bytes > share, s.bytes+bytes > s.Memory:
		return s.freed, nil
	}
	s.bytes += bytes
	j.account.bytes += bytes
	j.bytes += bytes
	return nil, nil
}
