package cache

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A cache answers as if it were not there, and never holds more than it may.
func TestAnswersAlikeWithinItsBytes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := New(100)
		for range rapid.IntRange(1, 200).Draw(t, "looks") {
			n := rapid.IntRange(1, 40).Draw(t, "value")
			got, err := Get(context.Background(), c, fmt.Sprint(n), func() (int, int64, error) {
				return n, int64(n), nil
			})
			require.NoError(t, err)
			require.Equal(t, n, got)
			require.LessOrEqual(t, c.Bytes(), int64(100))
			_, kept := Find[int](c, fmt.Sprint(n))
			require.Equal(t, n <= 25, kept, "what is used last stays, unless it is larger than a quarter of all")
		}
	})
}

func TestMakesEachValueOnce(t *testing.T) {
	c := New(1000)
	var made atomic.Int32
	begun, go_ := make(chan struct{}), make(chan struct{})
	var group sync.WaitGroup
	ask := func() {
		got, err := Get(t.Context(), c, "a", func() (string, int64, error) {
			if made.Add(1) == 1 {
				close(begun)
			}
			<-go_
			return "value", 5, nil
		})
		require.NoError(t, err)
		require.Equal(t, "value", got)
	}
	group.Go(ask)
	<-begun
	for range 20 {
		group.Go(ask)
	}
	close(go_)
	group.Wait()
	require.EqualValues(t, 1, made.Load())
	require.EqualValues(t, 5, c.Bytes())
}

// Who is cancelled, fails or panics while making a value takes nobody along.
func TestWhoMakesItMayFail(t *testing.T) {
	for name, fail := range map[string]func(){"error": func() {}, "panic": func() { panic("broken") }} {
		t.Run(name, func(t *testing.T) {
			c := New(1000)
			begun, go_ := make(chan struct{}), make(chan struct{})
			first := make(chan struct{})
			go func() {
				defer close(first)
				defer func() { _ = recover() }()
				_, _ = Get(t.Context(), c, "a", func() (int, int64, error) {
					close(begun)
					<-go_
					fail()
					return 0, 0, errors.New("cancelled")
				})
			}()
			<-begun
			got := make(chan int)
			go func() {
				v, err := Get(t.Context(), c, "a", func() (int, int64, error) { return 7, 8, nil })
				require.NoError(t, err)
				got <- v
			}()
			ctx, cancel := context.WithCancel(t.Context())
			cancel()
			_, err := Get(ctx, c, "a", func() (int, int64, error) { return 0, 0, nil })
			require.ErrorIs(t, err, context.Canceled, "who gives up does not wait")
			close(go_)
			require.Equal(t, 7, <-got)
			<-first
		})
	}
}

func TestDropsWhatWasUsedLongestAgo(t *testing.T) {
	c := New(100)
	made := 0
	get := func(key string, bytes int64) {
		_, err := Get(t.Context(), c, key, func() (int, int64, error) { made++; return 0, bytes, nil })
		require.NoError(t, err)
	}
	for _, key := range []string{"a", "b", "c", "d", "a", "b", "c", "d"} {
		get(key, 25)
	}
	require.Equal(t, 4, made, "all four fit")
	get("a", 25)
	get("e", 25) // b was used longest ago
	get("a", 25)
	get("b", 25)
	require.Equal(t, 6, made)
	get("large", 90)
	get("large", 90)
	require.Equal(t, 8, made, "what would push out most of the rest is not kept")
}
