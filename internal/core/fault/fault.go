// Package fault keeps a fault in the work of one run from ending the process.
//
// Go ends the whole program when a goroutine panics and nobody there recovers. So
// whatever starts goroutines for a run starts them here: a panic becomes an error of
// that run, with the place of the fault for the log.
package fault

import (
	"fmt"
	"runtime/debug"
	"sync"
	"sync/atomic"
)

// Error is a panic that was caught. Its text holds nothing of the stack.
type Error struct {
	What  any
	Stack string
}

func (e *Error) Error() string { return fmt.Sprintf("a fault in the program: %v", e.What) }

// Unwrap is the error that was panicked with, if it was one.
func (e *Error) Unwrap() error {
	err, _ := e.What.(error)
	return err
}

// Caught calls do and returns its error; a panic becomes an *Error.
func Caught(do func() error) (err error) {
	defer func() {
		if what := recover(); what != nil {
			err = &Error{What: what, Stack: string(debug.Stack())}
		}
	}()
	return do()
}

// Group is goroutines of one piece of work. The zero Group is ready; it is used once.
type Group struct {
	running sync.WaitGroup
	first   atomic.Pointer[Error]
}

// Go calls do on a goroutine of its own.
func (g *Group) Go(do func()) {
	g.running.Go(func() {
		err := Caught(func() error { do(); return nil })
		if caught, ok := err.(*Error); ok {
			g.first.CompareAndSwap(nil, caught)
		}
	})
}

// Failed says whether one of them has panicked: the others need not go on.
func (g *Group) Failed() bool { return g.first.Load() != nil }

// Wait waits for all of them and returns the first fault.
func (g *Group) Wait() error {
	g.running.Wait()
	if caught := g.first.Load(); caught != nil {
		return caught
	}
	return nil
}
