package view

import (
	"fmt"
	"strings"
	"testing"
)

// A list of pasted references is the longest thing that documents hold.
func BenchmarkParse(b *testing.B) {
	for _, n := range []int{5_000, 100_000} {
		values := make([]string, n)
		for i := range values {
			values[i] = fmt.Sprintf(`"B-%07d"`, i)
		}
		text := []byte(
			`{"gavrik":1,"records":"bookings","columns":[{"field":"ref"}],"filter":{"field":"ref","op":"one_of","values":[` + strings.Join(values, ",") + `]}}`,
		)
		b.Run(fmt.Sprint(n, " values"), func(b *testing.B) {
			b.SetBytes(int64(len(text)))
			for range b.N {
				if _, err := Parse(text); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
