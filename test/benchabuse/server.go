package main

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"gavrik/test/crowd"
)

// server is a Gavrik of its own process, with the demo.
type server struct {
	binary, listen, dir string
	cmd                 *exec.Cmd
	ended               chan error
}

func (s *server) url() string { return "http://" + s.listen }

func (s *server) start(ctx context.Context) error {
	s.cmd = exec.Command(s.binary, "demo", "--data", s.dir+"/demo", "--listen", s.listen)
	log, err := os.OpenFile(s.dir+"/log", os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	s.cmd.Stdout, s.cmd.Stderr = log, log
	if err := s.cmd.Start(); err != nil {
		return err
	}
	s.ended = make(chan error, 1)
	go func() { s.ended <- s.cmd.Wait() }()
	for range 600 {
		if r, err := http.Get(s.url() + "/healthz"); err == nil {
			r.Body.Close()
			if r.StatusCode == http.StatusOK {
				return nil
			}
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case err := <-s.ended:
			return fmt.Errorf("the server ended while it started: %w", err)
		case <-time.After(200 * time.Millisecond):
		}
	}
	return errors.New("the server did not start within two minutes")
}

func (s *server) stop() error {
	if s.cmd == nil {
		return nil
	}
	_ = s.cmd.Process.Signal(syscall.SIGTERM) // it may have ended
	select {
	case <-s.ended:
	case <-time.After(30 * time.Second):
		_ = s.cmd.Process.Kill()
	}
	return nil
}

// resident is the memory of the process, in bytes.
func (s *server) resident() int64 {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", s.cmd.Process.Pid))
	if err != nil {
		return 0
	}
	pages, _ := strconv.ParseInt(strings.Fields(string(text))[1], 10, 64)
	return pages * int64(os.Getpagesize())
}

// settle waits until the memory of what went before is given back, or does not shrink.
func (s *server) settle() {
	for before := s.resident(); ; {
		time.Sleep(2 * time.Second)
		now := s.resident()
		if now > before*95/100 {
			return
		}
		before = now
	}
}

// watch looks at the memory until it is asked for its peak, and whether the server lives.
func (s *server) watch() func() (peak int64, lived bool) {
	stop, done := make(chan struct{}), make(chan struct{})
	var most int64
	lived := true
	go func() {
		defer close(done)
		for {
			if most = max(most, s.resident()); most > 12<<30 {
				_ = s.cmd.Process.Kill() // before it takes the machine along
			}
			select {
			case <-stop:
				return
			case err := <-s.ended:
				lived = false
				s.ended <- err
			case <-time.After(20 * time.Millisecond):
			}
		}
	}()
	return func() (int64, bool) {
		close(stop)
		<-done
		return most, lived
	}
}

// others work while somebody else does harm.
type others struct {
	people  []*crowd.Person
	cancel  context.CancelFunc
	working sync.WaitGroup
	refused atomic.Int64

	mu    sync.Mutex // protects times
	times []time.Duration
}

func newOthers(people []*crowd.Person) *others { return &others{people: people} }

func (o *others) begin(ctx context.Context) {
	ctx, o.cancel = context.WithCancel(ctx)
	o.times = nil
	o.refused.Store(0)
	for _, p := range o.people {
		o.working.Go(func() {
			for ctx.Err() == nil {
				for what, t := range p.Change() {
					if !strings.HasPrefix(what, "first lines") {
						continue
					}
					if t.Err != nil && ctx.Err() == nil {
						o.refused.Add(1)
					} else if t.Err == nil {
						o.mu.Lock()
						o.times = append(o.times, t.Time)
						o.mu.Unlock()
					}
				}
				select {
				case <-ctx.Done():
				case <-time.After(300 * time.Millisecond):
				}
			}
		})
	}
}

func (o *others) end() ([]time.Duration, int64) {
	o.cancel()
	o.working.Wait()
	o.mu.Lock()
	defer o.mu.Unlock()
	sortDurations(o.times)
	return o.times, o.refused.Load()
}
