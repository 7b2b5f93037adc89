package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"gavrik/internal/deliver"
	"gavrik/internal/demo"
	"gavrik/internal/demo/mailbox"
	"gavrik/internal/localpg"
	"gavrik/internal/people"
	"gavrik/internal/records"
	"gavrik/internal/store"
)

func demoCommand() *cobra.Command {
	var listenOn, dir string
	var verbose bool
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the made-up Marrowby Sound Ferries, with a private PostgreSQL",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			level := slog.LevelWarn
			if verbose {
				level = slog.LevelInfo
			}
			return runDemo(cmd.Context(), dir, listenOn, newLog(false, level))
		},
	}
	cmd.Flags().StringVar(&listenOn, "listen", "127.0.0.1:4280", "address to serve on")
	cmd.Flags().StringVar(&dir, "data", "", "folder for the private PostgreSQL (default: one for this user)")
	cmd.Flags().BoolVar(&verbose, "verbose", false, "log every request")
	return cmd
}

func runDemo(ctx context.Context, dir, listenOn string, log *slog.Logger) (err error) {
	// Before anything slow: is the port free at all?
	probe, err := listen(listenOn)
	if err != nil {
		return err
	}
	_ = probe.Close()
	if dir == "" {
		if dir, err = localpg.DefaultDir("demo"); err != nil {
			return err
		}
	}
	fmt.Println("Starting a private PostgreSQL …")
	pg, err := localpg.Start(ctx, localpg.Options{Dir: dir})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, pg.Stop()) }()
	url := pg.URL("postgres")
	conn, err := records.Connect(ctx, url)
	if err != nil {
		return err
	}
	fmt.Println("Looking for the ferry company's records …")
	made, err := demo.Ensure(ctx, conn, time.Now().UTC(), demo.FullSize)
	if err = errors.Join(err, conn.Close(context.WithoutCancel(ctx))); err != nil {
		return err
	}
	if made {
		fmt.Println("They were not there and have been made.")
	}
	source := records.Database(url, demo.Schema)[0]
	if _, err := records.Publish(ctx, source, "gavrik_demo"); err != nil {
		return err
	}
	box, err := mailbox.Open()
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, box.Close()) }()
	o := serveOptions{
		workspaceFlags: workspaceFlags{
			recordsURL: url, schemas: []string{demo.Schema}, zone: "UTC", weekStart: "monday", fiscalStart: 4,
		},
		listen:  listenOn,
		refresh: 15 * time.Minute,
		follow:  true, installation: "demo", keepIn: filepath.Join(dir, "records"),
		openMetrics: true, // it is on loopback
		provider:    providerFlags{public: "http://" + listenOn},
		deliver: deliverFlags{
			server: box.Address, security: string(deliver.Plain),
			mail: deliver.MailServer{From: "Gavrik <gavrik@marrowby.example>"},
		},
		beside: map[string]http.Handler{mailbox.Path: box.Handler()},
	}
	return serve(ctx, o, log, func(s *store.Store) error {
		before, err := s.CountPeople(ctx)
		if err != nil {
			return err
		}
		if err := demo.Populate(ctx, s, people.NewDesk(s), time.Now()); err != nil {
			return err
		}
		if before == 0 {
			if err := demo.AddDeliveries(ctx, s, time.Now().UTC()); err != nil {
				return err
			}
		}
		fmt.Println("\nSign in as one of these; the password of each is:", demo.Password)
		for _, p := range demo.People {
			fmt.Printf("  %-28s %s\n", p.Email, p.Name)
		}
		fmt.Printf("\nLetters that Gavrik mails here are shown at http://%s%s and go nowhere else.\n", listenOn, mailbox.Path)
		fmt.Println("\nStop with Ctrl-C.")
		return nil
	})
}
