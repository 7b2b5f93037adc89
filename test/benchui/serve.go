package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/demo"
	"gavrik/internal/people"
	"gavrik/internal/records"
	"gavrik/internal/store"
	"gavrik/internal/web"
	front "gavrik/web"
)

// serve makes the records, and serves them on a free port of loopback.
func serve(ctx context.Context, url, file string, rows int) (base string, stop func(), err error) {
	conn, err := records.Connect(ctx, url)
	if err != nil {
		return "", nil, err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := demo.Ensure(ctx, conn, time.Now().UTC(), demo.FullSize); err != nil {
		return "", nil, err
	}
	state, err := store.Open(ctx, url)
	if err != nil {
		return "", nil, err
	}
	if err := demo.Populate(ctx, state, people.NewDesk(state)); err != nil {
		return "", nil, err
	}
	if err := writeBookings(file, rows); err != nil {
		return "", nil, err
	}
	f, err := os.Open(file)
	if err != nil {
		return "", nil, err
	}
	defer f.Close()
	if _, err := records.Import(ctx, conn, f, records.ImportOptions{Name: "harbour_bookings", File: "bookings.csv"}); err != nil {
		return "", nil, err
	}
	load := func(ctx context.Context) (*records.Loaded, error) {
		return records.Load(ctx, url, []string{demo.Schema, records.FilesSchema}, records.Settings{Zone: "UTC"})
	}
	workspace, err := web.NewWorkspace(ctx, load, calendar.Calendar{Zone: time.UTC, WeekStart: time.Monday, FiscalStart: time.April}, time.Now)
	if err != nil {
		return "", nil, err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", nil, err
	}
	server := &http.Server{ReadHeaderTimeout: 10 * time.Second, Handler: web.New(web.Options{
		Store: state, Workspace: workspace, Files: front.Files(), Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
	})}
	go func() {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			fmt.Fprintln(os.Stderr, "bench-ui:", err)
		}
	}()
	return "http://" + listener.Addr().String(), func() {
		_ = server.Close()
		state.Close()
	}, nil
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
	routes := []string{"Port Anselm – Venn Isle", "Harrow Strand – St Brannoc", "Tarn Head – Venn Isle", "Mulberry Quay – Oxley", "St Brannoc – Oxley", "Port Anselm – Garrel", "Venn Isle – Pennick"}
	start := time.Date(2024, 1, 1, 0, 0, 0, 0, time.UTC)
	fmt.Fprintln(w, "ref,status,route,channel,departs_on,fare,passengers,paid")
	for i := range rows {
		fmt.Fprintf(w, "HB-%08d,%s,%s,%s,%s,%d.%02d,%d,%d.00\n", i, status[int(float64(len(status))*r.Float64()*r.Float64())], routes[r.IntN(len(routes))],
			[]string{"Web", "Counter", "Phone"}[r.IntN(3)], start.AddDate(0, 0, r.IntN(1090)).Format(time.DateOnly), 10+r.IntN(400), r.IntN(100), 1+r.IntN(8), r.IntN(300))
	}
	return errors.Join(w.Flush(), f.Close())
}
