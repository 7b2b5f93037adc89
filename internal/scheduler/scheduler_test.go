package scheduler

import (
	"context"
	"fmt"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/turn"
)

// clock is a clock that stands until it is moved.
type clock struct{ at atomic.Int64 }

func (c *clock) now() time.Time       { return time.Unix(1_000_000, c.at.Load()) }
func (c *clock) pass(d time.Duration) { c.at.Add(int64(d)) }
func one(c *clock, memory int64) *Scheduler {
	return New(Options{Seats: 1, PerPerson: 3, Memory: memory, Now: c.now})
}

// waits starts to wait for a turn, and says when it came.
func waits(t *testing.T, j *Job) <-chan error {
	before := j.s.Stats().Waiting
	came := make(chan error, 1)
	go func() { came <- j.Wait(t.Context()) }()
	require.Eventually(t, func() bool { return j.s.Stats().Waiting > before }, time.Minute, time.Millisecond)
	return came
}

func TestHerOwnNextQuestionWaits(t *testing.T) {
	c := &clock{}
	s := one(c, 0)
	first, second := s.Enter("ines"), s.Enter("ines")
	require.NoError(t, first.Wait(t.Context()))
	c.pass(10 * time.Millisecond)
	came := waits(t, second)
	require.NoError(t, first.Wait(t.Context()), "both have only begun")
	first.Leave()
	require.NoError(t, <-came)
}

func TestOneWhoHasBegunGoesBeforeOneWhoWorksLong(t *testing.T) {
	c := &clock{}
	s := one(c, 0)
	heavy, small := s.Enter("ines"), s.Enter("olan")
	require.NoError(t, heavy.Wait(t.Context()))
	c.pass(time.Second)
	smallCame := waits(t, small)
	heavyCame := waits2(t, heavy)
	require.NoError(t, <-smallCame)
	select {
	case <-heavyCame:
		t.Fatal("two sit on one seat")
	default:
	}
	require.NoError(t, small.Wait(t.Context()), "it is still small, and keeps the seat")
	small.Rest()
	require.NoError(t, <-heavyCame, "the heavy one goes on")
	require.Equal(t, 1, s.Stats().Computing)
	heavy.Leave()
	require.Zero(t, s.Stats().Computing)
}

// waits2 is waits for a job that gives its seat away first.
func waits2(t *testing.T, j *Job) <-chan error {
	came := make(chan error, 1)
	go func() { came <- j.Wait(t.Context()) }()
	require.Eventually(t, func() bool { return !j.seated.Load() }, time.Minute, time.Millisecond)
	return came
}

func TestWhoHasUsedLessGoesFirst(t *testing.T) {
	c := &clock{}
	s := one(c, 0)
	seat, much, little := s.Enter("wen"), s.Enter("ines"), s.Enter("olan")
	for j, long := range map[*Job]time.Duration{much: 500 * time.Millisecond, little: 100 * time.Millisecond} {
		require.NoError(t, j.Wait(t.Context()))
		c.pass(long)
		j.Rest()
	}
	require.NoError(t, seat.Wait(t.Context()))
	muchCame := waits(t, much)
	littleCame := waits(t, little)
	seat.Rest()
	require.NoError(t, <-littleCame)
	little.Rest()
	require.NoError(t, <-muchCame)

	// But nobody waits for ever: after a second she goes before all others.
	c.pass(time.Minute) // what was used is forgotten
	require.NoError(t, much.Wait(t.Context()))
	littleCame = waits(t, little)
	c.pass(2 * aged)
	fresh := s.Enter("fen")
	freshCame := waits(t, fresh)
	muchCame = waits2(t, much)
	require.NoError(t, <-littleCame)
	little.Rest()
	require.NoError(t, <-freshCame)
	fresh.Rest()
	require.NoError(t, <-muchCame)
}

func TestOnePersonHasABound(t *testing.T) {
	s := one(&clock{}, 0)
	var jobs []*Job
	for range 3 {
		jobs = append(jobs, s.Enter("ines"))
		require.NoError(t, jobs[len(jobs)-1].Wait(t.Context()))
		jobs[len(jobs)-1].Rest()
	}
	fourth := s.Enter("ines")
	err := fourth.Wait(t.Context())
	require.ErrorIs(t, err, turn.ErrBusy)
	require.EqualError(
		t, err,
		"3 of your questions are being worked on already; wait for one of them to end, or close what you do not need",
	)
	require.NoError(t, s.Enter("olan").Wait(t.Context()), "nobody else notices")
	jobs[0].Leave()
	ctx, cancel := context.WithCancel(t.Context())
	came := make(chan error, 1)
	go func() { came <- fourth.Wait(ctx) }()
	require.Eventually(t, func() bool { return s.Stats().Waiting == 1 }, time.Minute, time.Millisecond)
	cancel()
	require.ErrorIs(t, <-came, context.Canceled)
	require.Zero(t, s.Stats().Waiting, "who gives up is not waited for")
}

func TestMemoryIsSharedAndGivenBack(t *testing.T) {
	s := New(Options{Memory: 100, Patience: 50 * time.Millisecond})
	a, b, c := s.Enter("ines"), s.Enter("olan"), s.Enter("wen")
	require.NoError(t, a.Book(t.Context(), 50))
	require.ErrorContains(t, a.Book(t.Context(), 1), "the most that one question may take")
	require.ErrorContains(t, s.Enter("ines").Book(t.Context(), 1), "your other questions take")
	require.NoError(t, b.Book(t.Context(), 40))
	err := c.Book(t.Context(), 20)
	require.ErrorIs(t, err, turn.ErrBusy)
	require.ErrorContains(t, err, "taken by those of others just now")
	s.Patience = time.Minute
	came := make(chan error, 1)
	go func() { came <- c.Book(t.Context(), 20) }()
	require.NoError(t, a.Book(t.Context(), -30))
	require.NoError(t, <-came, "what is given back goes to who waits")
	require.EqualValues(t, 80, s.Stats().Bytes)
	for _, j := range []*Job{a, b, c} {
		j.Leave()
	}
	require.Zero(t, s.Stats().Bytes)
}

// However many ask at once, no more sit than there are seats, and all come through.
func TestManyAtOnce(t *testing.T) {
	s := New(Options{Seats: 3, Memory: 1000, PerPerson: 100})
	var working, most atomic.Int32
	var group sync.WaitGroup
	for i := range 60 {
		group.Go(func() {
			r := rand.New(rand.NewPCG(uint64(i), 1))
			j := s.Enter(fmt.Sprint(i % 7))
			defer j.Leave()
			ctx := t.Context()
			if i%9 == 0 {
				gone, cancel := context.WithTimeout(ctx, 5*time.Millisecond)
				defer cancel()
				ctx = gone
			}
			var workers sync.WaitGroup
			for range 2 {
				workers.Go(func() {
					for range 200 {
						if j.Wait(ctx) != nil {
							return
						}
					}
				})
			}
			workers.Wait()
			j.Rest()
			for range 50 {
				if j.Wait(ctx) != nil {
					return
				}
				if n := working.Add(1); n > most.Load() {
					most.Store(n)
				}
				working.Add(-1)
				if r.IntN(3) == 0 {
					j.Rest()
				}
				if bytes := r.Int64N(100); j.Book(ctx, bytes) == nil {
					_ = j.Book(ctx, -bytes)
				}
			}
		})
	}
	group.Wait()
	require.Positive(t, most.Load())
	require.LessOrEqual(t, most.Load(), int32(3))
	require.Equal(t, Stats{
		Admitted: s.Stats().Admitted, Refused: s.Stats().Refused,
	}, s.Stats(), "nothing is left behind")
	require.Equal(t, s.Seats, s.free)
	for _, a := range s.accounts {
		require.Zero(t, a.jobs)
		require.Zero(t, a.bytes)
	}
}
