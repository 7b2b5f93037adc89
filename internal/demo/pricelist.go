package demo

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"gavrik/internal/app"
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/description"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// PriceList is the file of prices as the office keeps it, valid from the first of a day's year. One
// price is still open.
func PriceList(now time.Time) string {
	var b strings.Builder
	b.WriteString("Item;Kind;List price EUR;Per ten miles EUR;Valid from;Refundable\n")
	for _, list := range [][]item{fares, cars, more} {
		for _, it := range list {
			refundable := "yes"
			if it.kind == "Meal" {
				refundable = "no"
			}
			fmt.Fprintf(&b, "%s;%s;%d,%02d;%d,%02d;1.1.%d;%s\n", it.name, it.kind, it.base/100, it.base%100,
				it.perMiles/100, it.perMiles%100, now.Year(), refundable)
		}
	}
	fmt.Fprintf(&b, "Caravan;Car;on request;1,90;1.1.%d;yes\n", now.Year())
	return b.String()
}

// bringPricesIn brings the price list in, and links the lines of bookings to it.
func bringPricesIn(ctx context.Context, s *store.Store, owner store.Person, now time.Time) error {
	text := PriceList(now)
	cal := calendar.Calendar{Zone: time.UTC}
	in := io.NewSectionReader(strings.NewReader(text), 0, int64(len(text)))
	look, err := app.LookFile(ctx, in, "prices.csv", files.Settings{}, nil, cal, func(r *files.Recipe) error {
		r.By = []string{"item"} // the price that is none is kept aside
		return nil
	})
	if err != nil {
		return err
	}
	job := app.FileJob{Recipe: *look.Recipe}
	how := app.BringingIn{Name: "List prices", One: "list price", Shares: []store.Share{store.WithEveryone}}
	tell := func(*app.FileOutcome) error { return nil }
	if _, err := app.BringFile(ctx, s, look.File, owner, job, how, cal, tell); err != nil {
		return err
	}
	leads := &description.Leads{To: "list_prices", By: []string{"item"}, Into: []string{"item"}}
	_, err = s.Describe(ctx, owner.Name, "booking_lines", 0, &description.SetWords{
		Links: map[string]*description.LinkWords{"list_price": {Label: "List price", Leads: leads}},
	})
	return err
}
