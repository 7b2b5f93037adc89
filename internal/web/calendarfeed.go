package web

import (
	"bytes"
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/emersion/go-ical"

	"gavrik/internal/app"
	"gavrik/internal/store"
)

// The bounds of a calendar that tells of rounds.
const (
	feedDays, feedBefore = 90, 14
	// feedEach is how many times of one round it tells.
	feedEach = 100
	// feedLasts is how long one of its events takes, so that calendars show it.
	feedLasts = 15 * time.Minute
)

type (
	feedOutput struct {
		Body struct {
			Made *time.Time `json:"made,omitempty" doc:"When the private address was made; left out if there is none"`
		}
	}
	newFeedOutput struct {
		Body struct {
			Path string `json:"path" doc:"Shown this once; only its hash is kept"`
		}
	}
	calendarInput struct {
		Secret string `path:"secret" maxLength:"80"`
		host   string
	}
	calendarOutput struct {
		ContentType string `header:"Content-Type"`
		Cache       string `header:"Cache-Control"`
		Body        []byte
	}
)

// Resolve reads where Gavrik was reached, for the links in the calendar.
func (c *calendarInput) Resolve(ctx huma.Context) []error {
	c.host = ctx.Host()
	return nil
}

func (s *recurring) registerCalendar(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "calendar-feed", Method: http.MethodGet, Path: "/api/calendar",
		Summary: "Whether there is a private address that gives one's rounds to a calendar",
	},
		func(ctx context.Context, _ *struct{}) (*feedOutput, error) {
			out := &feedOutput{}
			var err error
			if out.Body.Made, err = s.Store.CalendarFeedMade(ctx, who(ctx).ID); err != nil {
				return nil, s.failed(ctx, "calendar", err)
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "new-calendar-feed", Method: http.MethodPost, Path: "/api/calendar",
		Summary: "Make a private address that gives one's rounds to a calendar; the one before ends",
	},
		func(ctx context.Context, _ *struct{}) (*newFeedOutput, error) {
			key := secret()
			if err := s.Store.SetCalendarFeed(ctx, who(ctx).ID, hashed(key)); err != nil {
				return nil, s.failed(ctx, "calendar", err)
			}
			out := &newFeedOutput{}
			out.Body.Path = "/api/calendar/" + key + ".ics"
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "end-calendar-feed", Method: http.MethodDelete, Path: "/api/calendar",
		Summary: "End the private address at once",
	},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			if err := s.Store.SetCalendarFeed(ctx, who(ctx).ID, nil); err != nil {
				return nil, s.failed(ctx, "calendar", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "calendar", Method: http.MethodGet, Path: "/api/calendar/{secret}",
		Summary: "A person's rounds, for a calendar (RFC 5545)", Metadata: open, Errors: []int{404},
	}, s.calendar)
}

func (s *recurring) calendar(ctx context.Context, in *calendarInput) (*calendarOutput, error) {
	p, err := s.Store.PersonByFeed(ctx, hashed(strings.TrimSuffix(in.Secret, ".ics")))
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("There is no calendar here, or its address was replaced.")
	}
	if err != nil {
		return nil, s.failed(ctx, "calendar", err)
	}
	rounds, err := s.Store.Rounds(ctx, p.ID)
	if err != nil {
		return nil, s.failed(ctx, "calendar", err)
	}
	now := s.Workspace.Now()
	out := ical.NewCalendar()
	out.Props.SetText(ical.PropVersion, "2.0")
	out.Props.SetText(ical.PropProductID, "-//Gavrik//Rounds//EN")
	out.Props.SetText(ical.PropName, "Gavrik: to look at")
	for _, r := range rounds {
		if !r.Looks || r.Binned || !r.Sees {
			continue
		}
		t, err := app.TermsOf(r.Rule, r.Answers, r.Trigger)
		if err != nil {
			return nil, s.failed(ctx, "calendar", err)
		}
		begin := r.BegunAt // what is due already stands there as well
		if r.Last != nil {
			begin = *r.Last
		}
		if old := now.AddDate(0, 0, -feedBefore); begin.Before(old) {
			begin = old
		}
		for _, at := range s.Workspace.Coming(t.Rule, begin, feedEach) {
			if at.After(now.AddDate(0, 0, feedDays)) {
				break
			}
			out.Children = append(out.Children, event(r, t, at, now, s.address(in.host)).Component)
		}
	}
	// A calendar without events is none in the eyes of the library.
	if len(out.Children) == 0 {
		zone := ical.NewComponent(ical.CompToDo)
		zone.Props.SetText(ical.PropUID, "none@gavrik")
		zone.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
		zone.Props.SetText(ical.PropSummary, "Nothing to look at")
		zone.Props.SetText(ical.PropStatus, "COMPLETED")
		out.Children = append(out.Children, zone)
	}
	var text bytes.Buffer
	if err := ical.NewEncoder(&text).Encode(out); err != nil {
		return nil, s.failed(ctx, "calendar", err)
	}
	return &calendarOutput{"text/calendar; charset=utf-8", "private, no-cache", text.Bytes()}, nil
}

// address is where people reach Gavrik: as it was told, or as a request says.
func (s service) address(host string) string {
	if s.Public.Host != "" {
		return s.Public.String()
	}
	return "http://" + host
}

// event is one time that a round is due. Its moment is in UTC: clocks of zones that are set
// differently here and in the calendar do not matter then.
func event(r store.Round, t app.Terms, at, now time.Time, from string) *ical.Event {
	e := ical.NewEvent()
	e.Props.SetText(ical.PropUID, r.Key+"-"+at.UTC().Format("20060102T1504")+"@gavrik")
	e.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
	e.Props.SetDateTime(ical.PropDateTimeStart, at.UTC())
	e.Props.SetDateTime(ical.PropDateTimeEnd, at.Add(feedLasts).UTC())
	e.Props.SetText(ical.PropSummary, "Look at “"+r.ViewName+"”")
	e.Props.SetText(ical.PropDescription, "To be looked at "+t.Rule.Words()+".")
	e.Props.SetText(ical.PropTransparency, "TRANSPARENT") // it does not make anybody busy
	if at, err := url.Parse(from + "/v/" + r.View + "?round=" + r.Key); err == nil {
		e.Props.SetURI(ical.PropURL, at)
	}
	return e
}
