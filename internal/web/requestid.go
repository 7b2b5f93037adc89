package web

import (
	"context"
	"crypto/rand"
	"fmt"
	"net/http"
	"strings"
	"sync/atomic"
)

type numberKey struct{}

// started tells the numbers of this process from those of others.
var (
	started  = strings.ToLower(rand.Text()[:4])
	requests atomic.Int64
)

// withNumber gives each request a number of its own, by which people and the log speak of
// it. What a caller sends as its number is not taken.
func withNumber(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		number := fmt.Sprintf("%s-%d", started, requests.Add(1))
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), numberKey{}, number)))
	})
}

// requestNumber is the number of a context's request; empty outside of one.
func requestNumber(ctx context.Context) string {
	number, _ := ctx.Value(numberKey{}).(string)
	return number
}
