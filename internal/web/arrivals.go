package web

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"gavrik/internal/core/turn"
)

// Arrival tells how fresh the records are.
type Arrival struct {
	AsOf     time.Time `json:"asOf"`
	AsOfText string    `json:"asOfText" doc:"The moment of the records, to the second"`
	Loaded   time.Time `json:"loaded" doc:"When they were loaded; another moment tells of newer ones"`
	Holds    bool      `json:"holds" doc:"The answer that was named says what the records say; true, if none was"`
	Stale    string    `json:"stale,omitempty" doc:"Since when the records could not be loaded"`
}

const (
	// telling is how long one connection is told of arrivals; whoever still listens comes again, and is
	// asked who it is.
	telling = 90 * time.Second
	// tellingAgain is after how long it is told again though nothing has come, tellingApart how long two
	// are apart.
	tellingAgain = 20 * time.Second
	tellingApart = time.Second
)

func (s *questions) registerArrivals(api huma.API) {
	sse.Register(api, huma.Operation{
		OperationID: "arrivals", Method: http.MethodGet, Path: "/api/records/arrivals",
		Summary: "Be told when newer records are there, and whether an answer still holds",
	}, map[string]any{"arrival": Arrival{}},
		func(ctx context.Context, in *struct {
			Result string `query:"result" doc:"The name of an answer, of whichever server" maxLength:"4000"`
			Once   bool   `query:"once" doc:"Tells it once, and ends"`
		}, send sse.Sender) {
			end := time.After(telling)
			for {
				next := s.Workspace.Arrival()
				told, err := s.arrival(ctx, in.Result)
				if err != nil || send.Data(told) != nil || in.Once {
					return
				}
				turn.Of(ctx).Rest()
				wait := func(next <-chan struct{}, long time.Duration) bool {
					select {
					case <-ctx.Done():
						return false
					case <-s.Workspace.Ended():
						return false
					case <-end:
						return false
					case <-next:
					case <-time.After(long):
					}
					return true
				}
				if !wait(next, tellingAgain) || !wait(nil, tellingApart) {
					if ctx.Err() == nil {
						_ = send.Data(told) // an answer that ends long after it was written to last is cut
					}
					return
				}
			}
		})
}

// arrival is what there is to tell of an answer.
func (s *questions) arrival(ctx context.Context, name string) (Arrival, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return Arrival{}, err
	}
	asOf := g.AsOf
	if s.Following != nil {
		if until := s.Following.UpToDate(); until.After(asOf) { // nothing has changed since
			asOf = until
		}
	}
	at, layout := asOf.In(g.Calendar.Zone), "2 Jan 2006, 15:04:05"
	if at.Format(time.DateOnly) == g.Calendar.Now.In(g.Calendar.Zone).Format(time.DateOnly) {
		layout = "15:04:05"
	}
	return Arrival{
		AsOf: asOf, AsOfText: at.Format(layout), Loaded: g.AsOf,
		Holds: name == "" || g.Holds(name), Stale: s.Workspace.Stale(),
	}, nil
}
