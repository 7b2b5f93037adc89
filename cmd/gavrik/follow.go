package main

import (
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"gavrik/internal/records"
)

// publication is what the installation's publications are called.
func (o *serveOptions) publication() string { return "gavrik_" + o.installation }

// eachSource calls do with every source of records.
func (o *serveOptions) eachSource(do func(from records.Source) error) error {
	if !records.PublicationName.MatchString(o.publication()) {
		return fmt.Errorf("an installation is named in small letters, digits and _, not %q", o.installation)
	}
	from, err := o.databases()
	if err != nil {
		return err
	}
	for _, one := range from {
		if len(one.Schemas) == 0 {
			continue
		}
		if err := do(one); err != nil {
			return err
		}
	}
	return nil
}

func doctorCommand() *cobra.Command {
	var o serveOptions
	cmd := &cobra.Command{
		Use:   "doctor",
		Short: "Look at whether changes of the records can be followed, and say how to mend what stands in the way",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			bad := false
			err := o.eachSource(func(from records.Source) error {
				found, err := records.Examine(cmd.Context(), from, o.publication())
				bad = write(cmd.OutOrStdout(), from.Name, found) || bad
				return err
			})
			if err == nil && bad {
				err = errors.New("not all changes are followed as they are committed; statistics tell of the others")
			}
			return err
		},
	}
	o.add(cmd.Flags())
	cmd.Flags().StringVar(&o.installation, "installation", "main", "name of the installation")
	return cmd
}

func followCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "follow",
		Short: "Have the changes of the records published, or end that",
	}
	add := func(
		use, short, long string, do func(cmd *cobra.Command, o *serveOptions, from records.Source) error,
	) {
		var o serveOptions
		one := &cobra.Command{
			Use: use, Short: short, Long: short + ".\n\n" + long, Args: cobra.NoArgs,
			RunE: func(cmd *cobra.Command, _ []string) error {
				return o.eachSource(func(from records.Source) error { return do(cmd, &o, from) })
			},
		}
		o.add(one.Flags())
		one.Flags().StringVar(&o.installation, "installation", "main", "name of the installation")
		cmd.AddCommand(one)
	}
	add("publish", "Publish the changes of all tables that have a primary key", `It is a publication of the database, named after the installation; made again, it takes
in tables that have come since. Whoever makes it must own the tables. A running
server notices it within half a minute.`,
		func(cmd *cobra.Command, o *serveOptions, from records.Source) error {
			n, err := records.Publish(cmd.Context(), from, o.publication())
			if err == nil {
				fmt.Fprintf(cmd.OutOrStdout(), "%s publishes the changes of %d tables\n", o.publication(), n)
			}
			return err
		})
	add("remove", "Take away the publication, and what was left behind under its name",
		`Servers go on with what the statistics of the database tell.`,
		func(cmd *cobra.Command, o *serveOptions, from records.Source) error {
			return records.Unpublish(cmd.Context(), from, o.publication())
		})
	return cmd
}

// write tells what was found in a source, and whether something of it is to be mended.
func write(to io.Writer, source string, found []records.Finding) (bad bool) {
	if source != "" {
		fmt.Fprintf(to, "%s:\n", source)
	}
	for _, one := range found {
		mark := "  ok    "
		if !one.Good {
			mark, bad = "  mend  ", true
		}
		fmt.Fprintf(to, "%s%s\n", mark, one.What)
		if one.Mend != "" {
			fmt.Fprintf(to, "        → %s\n", one.Mend)
		}
	}
	return bad
}
