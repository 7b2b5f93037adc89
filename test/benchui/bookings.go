package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/app"
	"gavrik/internal/core/calendar"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// imported brings a file of bookings in, which it writes first.
func imported(ctx context.Context, conn *pgx.Conn, file string, rows int) error {
	if err := writeBookings(file, rows); err != nil {
		return err
	}
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	state, err := store.Open(ctx, conn.Config().ConnString())
	if err != nil {
		return err
	}
	defer state.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	cal := calendar.Calendar{Zone: time.UTC}
	look, err := app.LookFile(ctx, io.NewSectionReader(f, 0, info.Size()), "bookings.csv", files.Settings{}, nil, cal,
		func(*files.Recipe) error { return nil })
	if err != nil {
		return err
	}
	how := app.BringingIn{Name: "harbour_bookings", Shares: []store.Share{store.WithEveryone}}
	_, err = app.BringFile(ctx, state, look.File, store.Person{Name: "the bench"}, app.FileJob{Recipe: *look.Recipe}, how, cal,
		func(*app.FileOutcome) error { return nil })
	return err
}

// writeBookings writes a file of bookings with a fixed seed.
func writeBookings(file string, rows int) error {
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	w := bufio.NewWriterSize(f, 1<<20)
	r := rand.New(rand.NewPCG(4, 2))
	status := []string{"Travelled", "Confirmed", "Cancelled", "No-show", "Waiting list"}
	routes := []string{
		"Port Anselm – Venn Isle", "Harrow Strand – St Brannoc", "Tarn Head – Venn Isle", "Mulberry Quay – Oxley",
		"St Brannoc – Oxley", "Port Anselm – Garrel", "Venn Isle – Pennick",
	}
	start := time.Date(2024, 1, 1, 0, 0, 0, 0, time.UTC)
	fmt.Fprintln(w, "ref,status,route,channel,departs_on,fare,passengers,paid")
	for i := range rows {
		fmt.Fprintf(w, "HB-%08d,%s,%s,%s,%s,%d.%02d,%d,%d.00\n", i, status[int(float64(len(status))*r.Float64()*r.Float64())], routes[r.IntN(len(routes))],
			[]string{
				"Web", "Counter", "Phone",
			}[r.IntN(3)], start.AddDate(0, 0, r.IntN(1090)).Format(time.DateOnly), 10+r.IntN(400), r.IntN(100), 1+r.IntN(8), r.IntN(300))
	}
	return errors.Join(w.Flush(), f.Close())
}
