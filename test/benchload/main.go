// Benchload measures how Gavrik answers a crowd: signed-in people on the demo, each of
// whom changes a filter every few seconds, as the bench sends it. Some see all records,
// some only those of their port. The crowd runs in the server's own process, on the same
// cores: make bench-load.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"slices"
	"sync"
	"time"

	"gavrik/internal/demo"
	"gavrik/test/crowd"
	"gavrik/test/served"
)

func main() {
	people := flag.Int("people", 200, "how many are signed in")
	every := flag.Duration("every", 3*time.Second, "time between two changes of one person")
	long := flag.Duration("for", time.Minute, "how long to measure")
	saves := flag.Int("saves", 0, "definitions that an administrator saves meanwhile")
	loads := flag.Int("loads", 0, "loads of the records that an administrator asks for meanwhile")
	flag.Parse()
	if err := run(*people, *every, *long, *saves, *loads); err != nil {
		fmt.Fprintln(os.Stderr, "bench-load:", err)
		os.Exit(1)
	}
}

func run(people int, every, long time.Duration, saves, loads int) (err error) {
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Minute)
	defer cancel()
	fmt.Println("Making the demo …")
	g, err := served.Start(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, g.Stop()) }()
	fmt.Printf("Letting %d people in …\n", people)
	all, err := crowd.Gather(ctx, g.URL, people)
	if err != nil {
		return err
	}
	ctx, stop := context.WithTimeout(ctx, long)
	defer stop()
	var mu sync.Mutex // protects times
	times := map[string][]crowd.Took{}
	var group sync.WaitGroup
	for _, p := range all {
		group.Go(func() {
			// They do not all begin at once.
			pause := time.After(time.Duration(p.Int64N(int64(every))))
			for {
				select {
				case <-ctx.Done():
					return
				case <-pause:
				}
				pause = time.After(every)
				for what, t := range p.Change() {
					mu.Lock()
					times[what] = append(times[what], t)
					mu.Unlock()
				}
			}
		})
	}
	group.Go(func() {
		if err := disturb(ctx, g.URL, long, saves, loads); err != nil {
			fmt.Fprintln(os.Stderr, "bench-load: an administrator:", err)
		}
	})
	group.Wait()
	fmt.Printf(
		"%d people, each changing a filter every %s, for %s\n\n%-24s %8s %10s %10s %10s %8s\n", people, every, long,
		"", "answers", "median", "95 %", "longest", "errors",
	)
	for _, what := range slices.Sorted(func(yield func(string) bool) {
		for what := range times {
			if !yield(what) {
				return
			}
		}
	}) {
		crowd.Report(what, times[what])
	}
	return nil
}

// disturb is an administrator who saves definitions and loads the records again, one after
// another over the time of the measurement.
func disturb(ctx context.Context, base string, long time.Duration, saves, loads int) error {
	if saves+loads == 0 {
		return nil
	}
	admin := crowd.New(base, 1000)
	if err := admin.SignIn(demo.People[0].Email, demo.Password); err != nil {
		return err
	}
	for i := range saves + loads {
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(long / time.Duration(saves+loads+1)):
		}
		var err error
		if i < saves {
			key := fmt.Sprintf("saved%d", i)
			definition := map[string]any{"key": key, "label": key, "formula": fmt.Sprintf("%d + 1", i)}
			err = admin.Send("POST", "/api/definitions", map[string]any{
				"records": "vessels", "calculated": definition,
			}, nil)
		} else {
			err = admin.Send("POST", "/api/refresh", nil, nil)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
