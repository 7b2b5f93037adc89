// Benchabuse measures what one person can do to a server and to everybody else: each of a
// list of requests of bad will, or of bad luck, is sent while others work, and the
// server's memory and the others' times stand beside it. The server is a process of its
// own, so that it may end, and another build of it can be measured in the same way:
//
//	make bench-abuse
//	go run ./test/benchabuse -binary PATH -only NAME
//	go run ./test/benchabuse -soak 10m
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"gavrik/internal/demo"
	"gavrik/test/crowd"
)

// workers is how many people work beside the abuse; a third are limited to their port.
const workers = 8

func main() {
	binary := flag.String("binary", "bin/gavrik", "the program to measure")
	only := flag.String("only", "", "measure those whose name holds this")
	soak := flag.Duration("soak", 0, "in place of all else: mixed load for so long")
	listen := flag.String("listen", "127.0.0.1:4391", "a free address of loopback")
	flag.Parse()
	if err := run(*binary, *listen, *only, *soak); err != nil {
		fmt.Fprintln(os.Stderr, "bench-abuse:", err)
		os.Exit(1)
	}
}

func run(binary, listen, only string, soak time.Duration) (err error) {
	ctx, cancel := context.WithTimeout(context.Background(), 55*time.Minute)
	defer cancel()
	dir, err := os.MkdirTemp("/var/tmp", "gavrik-abuse-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o711); err != nil {
		return err
	}
	s := &server{binary: binary, listen: listen, dir: dir}
	defer func() { err = errors.Join(err, s.stop()) }()
	fmt.Println("Making the demo …")
	if err := s.start(ctx); err != nil {
		return err
	}
	people, err := crowd.Gather(ctx, s.url(), workers)
	if err != nil {
		return err
	}
	abuser := crowd.New(s.url(), 100)
	admin := crowd.New(s.url(), 101)
	if err := errors.Join(
		abuser.SignIn(demo.People[1].Email, demo.Password), admin.SignIn(demo.People[0].Email, demo.Password),
	); err != nil {
		return err
	}
	set := &scene{ctx: ctx, url: s.url(), abuser: abuser, admin: admin, others: newOthers(people)}
	if soak > 0 {
		return set.soak(s, soak)
	}
	fmt.Printf("\n%-52s %9s %9s %9s %9s %9s  %s\n", "", "took", "memory", "others", "95 %", "refused", "answer")
	quiet := abuse{"nobody does any harm", func(c *scene) string { time.Sleep(5 * time.Second); return "" }}
	for _, a := range append([]abuse{quiet}, abuses...) {
		if !strings.Contains(a.name, only) {
			continue
		}
		if err := set.measure(s, a); err != nil {
			return err
		}
	}
	return nil
}

// measure carries one abuse out beside the others' work.
func (c *scene) measure(s *server, a abuse) error {
	s.settle()
	peak := s.watch()
	c.others.begin(c.ctx)
	started := time.Now()
	answer := a.do(c)
	took := time.Since(started)
	if left := 3*time.Second - took; left > 0 {
		time.Sleep(left) // long enough for a median of the others
	}
	times, refused := c.others.end()
	memory, lived := peak()
	if !lived {
		answer = "THE SERVER ENDED"
	}
	at := func(q float64) string {
		if len(times) == 0 {
			return "–"
		}
		return fmt.Sprintf("%.1f ms", times[min(len(times)-1, int(q*float64(len(times))))].Seconds()*1e3)
	}
	fmt.Printf(
		"%-52s %8.1fs %6d MB %9s %9s %9d  %s\n", a.name, took.Seconds(), memory>>20, at(0.5), at(0.95), refused,
		answer,
	)
	if lived {
		return nil
	}
	if err := s.start(c.ctx); err != nil {
		return err
	}
	return c.signInAgain()
}

// signInAgain is only needed where a server lost its sessions with its end, which it does
// not: they are in the database. It makes sure of it.
func (c *scene) signInAgain() error {
	return errors.Join(
		c.abuser.SignIn(demo.People[1].Email, demo.Password), c.admin.SignIn(demo.People[0].Email, demo.Password),
	)
}

// soak mixes the others' work with the milder abuses, and tells the memory each minute.
func (c *scene) soak(s *server, long time.Duration) error {
	var mild []abuse
	for _, a := range abuses {
		if !a.slow() {
			mild = append(mild, a)
		}
	}
	c.others.begin(c.ctx)
	peak := s.watch()
	end, minute := time.Now().Add(long), time.Now()
	fmt.Printf("%8s %12s\n", "minute", "memory")
	for i := 0; time.Now().Before(end); i++ {
		mild[i%len(mild)].do(c)
		if time.Since(minute) > time.Minute {
			minute = time.Now()
			fmt.Printf("%8.0f %9d MB\n", long.Minutes()-time.Until(end).Minutes(), s.resident()>>20)
		}
	}
	times, refused := c.others.end()
	memory, lived := peak()
	slices.Sort(times)
	fmt.Printf(
		"\n%d answers to others, median %.1f ms, 95 %% %.1f ms, %d refused; peak %d MB; alive: %t\n", len(times),
		times[len(times)/2].Seconds()*1e3, times[len(times)*95/100].Seconds()*1e3, refused, memory>>20, lived,
	)
	return nil
}
