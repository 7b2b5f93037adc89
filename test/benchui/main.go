// Benchui measures the bench in a browser: from a key to the painted answer, frames
// while scrolling, the first page. It makes its own database with the demo and a
// million imported bookings: make bench-ui.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/served"
)

func main() {
	rows := flag.Int("rows", 1_000_000, "bookings to import")
	flag.Parse()
	if err := run(*rows); err != nil {
		fmt.Fprintln(os.Stderr, "bench-ui:", err)
		os.Exit(1)
	}
}

func run(rows int) (err error) {
	ctx, cancel := context.WithTimeout(context.Background(), 15*time.Minute)
	defer cancel()
	fmt.Printf("Making the demo, and importing %d bookings …\n", rows)
	g, err := served.Start(ctx, func(ctx context.Context, conn *pgx.Conn, dir string) error {
		return imported(ctx, conn, filepath.Join(dir, "bookings.csv"), rows)
	})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, g.Stop()) }()
	tab, stop, err := browser.Start(ctx)
	if err != nil {
		return err
	}
	defer stop()
	if err := chromedp.Do(tab, browser.SignIn(g.URL, demo.People[0].Email, demo.Password)); err != nil {
		return err
	}
	fmt.Printf("%-34s %10s %10s %8s\n", "from key to painted answer, ms", "median", "95 %", "times")
	for _, set := range []string{"bookings", "harbour_bookings"} {
		m := &meter{tab: tab, base: g.URL}
		if err := m.all(set); err != nil {
			return fmt.Errorf("%s: %w", set, err)
		}
	}
	return nil
}

// quantile of some times, in milliseconds.
func quantile(times []float64, q float64) float64 {
	slices.Sort(times)
	return times[min(len(times)-1, int(q*float64(len(times))))]
}
