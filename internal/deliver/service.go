// Package deliver sends views: by mail and to addresses on the web, once or again and again. What is
// due is found, written down and sent by river's jobs over the same PostgreSQL, so that several servers
// share the work and none does it twice.
package deliver

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"
	"golang.org/x/sync/singleflight"

	"gavrik/internal/app"
	"gavrik/internal/core/fault"
	"gavrik/internal/store"
)

// Options are what deliveries work with.
type Options struct {
	// Mail is where letters are handed in; nil for nowhere, so that nothing can be mailed.
	Mail *MailServer
	// PrivateHooks lets addresses of private networks be posted to.
	PrivateHooks bool
	// Every is how often it is looked what is due; ten seconds, if it is zero.
	Every time.Duration
	// Pauses are those between tries of one letter; growing ones up to half a day, if there are none.
	Pauses []time.Duration
}

// growing are the usual pauses between tries: a letter is given up after a day and a half.
var growing = []time.Duration{
	time.Minute, 3 * time.Minute, 10 * time.Minute, 30 * time.Minute, 2 * time.Hour, 6 * time.Hour, 12 * time.Hour,
	16 * time.Hour,
}

// The bounds of the work.
const (
	workers     = 4
	letterTime  = 10 * time.Minute
	rescueAfter = letterTime + 2*time.Minute
	// dueAtOnce is how many deliveries are begun at a time, keptFor how long it is known what was sent.
	dueAtOnce = 50
	keptFor   = 400 * 24 * time.Hour
	queue     = "deliveries"
	// madeKept is how many letters' contents are kept for others that say the same.
	madeKept = 4
)

// Service delivers. Any goroutine may use it.
type Service struct {
	Options
	app    *app.App
	pool   *pgxpool.Pool
	river  *river.Client[pgx.Tx]
	seal   []byte
	hooks  *http.Client
	pauses []time.Duration
	// lately is what was put into letters a moment ago, by what they have in common; makes is what is
	// being made for them.
	lately *lru.Cache[string, *made]
	makes  singleflight.Group
}

// New readies deliveries over the application's state. Start begins the work.
func New(ctx context.Context, a *app.App, o Options) (*Service, error) {
	s := &Service{Options: o, app: a, hooks: hookClient(o.PrivateHooks), pauses: o.Pauses}
	if len(s.pauses) == 0 {
		s.pauses = growing
	}
	lately, err := lru.New[string, *made](madeKept)
	if err != nil {
		return nil, fmt.Errorf("deliver: %w", err)
	}
	s.lately = lately
	secret, err := a.Store.Secret(ctx, "letter secret")
	if err != nil {
		return nil, fmt.Errorf("deliver: %w", err)
	}
	s.seal = []byte(secret)
	cfg, err := pgxpool.ParseConfig(a.Store.URL())
	if err != nil {
		return nil, fmt.Errorf("deliver: %w", err)
	}
	cfg.MaxConns = workers + 2
	if s.pool, err = pgxpool.NewWithConfig(ctx, cfg); err != nil {
		return nil, fmt.Errorf("deliver: %w", err)
	}
	if err := s.ready(ctx); err != nil {
		s.pool.Close()
		return nil, fmt.Errorf("deliver: %w", err)
	}
	return s, nil
}

// migrating is the advisory lock under which one server at a time readies the queue.
const migrating = 0x67617672697665

func (s *Service) ready(ctx context.Context) error {
	lock, err := s.pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer lock.Release()
	if _, err := lock.Exec(ctx, "SELECT pg_advisory_lock($1)", migrating); err != nil {
		return err
	}
	// a lost connection lets go by itself
	defer func() { _, _ = lock.Exec(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock($1)", migrating) }()
	driver, quiet := riverpgxv5.New(s.pool), slog.New(slog.DiscardHandler)
	migrator, err := rivermigrate.New(driver, &rivermigrate.Config{Schema: store.Schema, Logger: quiet})
	if err != nil {
		return err
	}
	if _, err := migrator.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return err
	}
	jobs := river.NewWorkers()
	river.AddWorker(jobs, &dueWorker{s: s})
	river.AddWorker(jobs, &letterWorker{s: s})
	every := s.Every
	if every == 0 {
		every = 10 * time.Second
	}
	due := func() (river.JobArgs, *river.InsertOpts) {
		alive := []rivertype.JobState{
			rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRunning,
			rivertype.JobStateRetryable, rivertype.JobStateScheduled,
		}
		return dueJob{}, &river.InsertOpts{
			Queue: queue, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByState: alive},
		}
	}
	s.river, err = river.NewClient(driver, &river.Config{
		Schema: store.Schema, Workers: jobs, Queues: map[string]river.QueueConfig{queue: {MaxWorkers: workers}},
		// One look at a time is enough, whichever server it falls to.
		PeriodicJobs: []*river.PeriodicJob{
			river.NewPeriodicJob(river.PeriodicInterval(every), due, &river.PeriodicJobOpts{RunOnStart: true}),
		},
		JobTimeout: letterTime, RescueStuckJobsAfter: rescueAfter, MaxAttempts: len(s.pauses) + 1, RetryPolicy: s,
		CompletedJobRetentionPeriod: time.Hour, Logger: slog.New(warnings{s.app.Log.Handler()}), PollOnly: true,
	})
	return err
}

// warnings hears of a queue what goes wrong, and nothing of its every step.
type warnings struct{ slog.Handler }

func (w warnings) Enabled(ctx context.Context, level slog.Level) bool {
	return level >= slog.LevelWarn && w.Handler.Enabled(ctx, level)
}

// NextRetry is when a letter is tried again.
func (s *Service) NextRetry(job *rivertype.JobRow) time.Time {
	return time.Now().Add(s.pauses[min(max(job.Attempt, 1), len(s.pauses))-1])
}

// Start begins to deliver.
func (s *Service) Start(ctx context.Context) error { return s.river.Start(ctx) }

// Stop lets letters under way be sent, and begins no more. ctx bounds how long that is waited for.
func (s *Service) Stop(ctx context.Context) error {
	err := s.river.Stop(ctx)
	if errors.Is(err, context.DeadlineExceeded) { // what is cut off is tried again, by whichever server is there
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), cutOff)
		defer cancel()
		err = s.river.StopAndCancel(end)
	}
	s.pool.Close()
	return err
}

// cutOff is how long letters under way may take to notice that they are cut off.
const cutOff = 2 * time.Second

// Mails says whether there is a mail server.
func (s *Service) Mails() bool { return s.Mail != nil }

// notThere is nil for what is not there any more.
func notThere(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	return err
}

// queued puts letters into the queue.
func (s *Service) queued(ctx context.Context, tx pgx.Tx, letters []int64) error {
	if len(letters) == 0 {
		return nil
	}
	jobs := make([]river.InsertManyParams, len(letters))
	for i, id := range letters {
		jobs[i] = river.InsertManyParams{Args: letterJob{id}, InsertOpts: &river.InsertOpts{Queue: queue}}
	}
	_, err := s.river.InsertManyTx(ctx, tx, jobs)
	return err
}

// dueJob looks what is due.
type dueJob struct{}

func (dueJob) Kind() string { return "due" }

type dueWorker struct {
	river.WorkerDefaults[dueJob]
	s *Service
}

func (w *dueWorker) Work(ctx context.Context, _ *river.Job[dueJob]) error { return w.s.Tick(ctx) }

// letterJob sends a letter.
type letterJob struct {
	Letter int64 `json:"letter"`
}

func (letterJob) Kind() string { return "letter" }

type letterWorker struct {
	river.WorkerDefaults[letterJob]
	s *Service
}

func (w *letterWorker) Work(ctx context.Context, job *river.Job[letterJob]) error {
	return fault.Caught(func() error { return w.s.deliver(ctx, job.Args.Letter, job.Attempt >= job.MaxAttempts) })
}
