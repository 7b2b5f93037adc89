package app

import (
	"context"
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/access"
	"gavrik/internal/core/description"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

const (
	// askedFor is how long an answer is kept that a database was asked for: asking again may take minutes.
	// People are told of when it is.
	askedFor = 5 * time.Minute
	// askingConnections is how many connections there are to one database for such questions.
	askingConnections = 8
	// askedVersion is what the versions of such answers begin with, and the moment follows; ledVersion, what
	// those begin with that are about records in memory, and the moment of their load follows.
	askedVersion, ledVersion = "at", "by"
)

// asks says whether a plan asks a database.
func (d *Dataset) asks(p *plan.Plan) bool { return d.staying != nil && d.staying.Asks(p) }

// Asking are the questions that databases are working on, of the one whose context it is.
func (w *Workspace) Asking(ctx context.Context) []pgreader.UnderWay { return w.databases.Asking(ctx) }

// StaysBySize says that a record set stays in its database because it would take too much in memory.
func (d *Dataset) StaysBySize(set string) bool {
	away := d.loaded.Away[set]
	return away != nil && away.Unasked
}

// kept are the rows of a set in memory that a plan's filter keeps.
func (d *Dataset) kept(ctx context.Context, p *plan.Plan) ([]int32, error) {
	if d.staying != nil {
		return d.staying.Kept(ctx, p)
	}
	return d.engine.Kept(ctx, p)
}

// askedWithin names the stretch of time within which an answer is kept that a database was asked for.
func (g *Scope) askedWithin(asks bool) string {
	if !asks {
		return ""
	}
	return strconv.FormatInt(g.Calendar.Now.Truncate(askedFor).Unix(), 36)
}

// version tells an answer from those of the same view over other records.
func (g *Scope) version(res result.Result, asked bool) string {
	sum := res.Summarize()
	switch {
	case !asked:
		return g.engine.Version(res)
	case g.Catalog.Set(sum.Plan.Records).Stays:
		return askedVersion + written(sum.AsOf)
	}
	return ledVersion + written(g.AsOf)
}

func written(at time.Time) string { return strconv.FormatInt(at.UnixMicro(), 36) }

// askedHolds says whether an answer that a database was asked for is to be shown on, by its version; ok is
// false for any other answer.
func (g *Scope) askedHolds(version string) (holds, ok bool) {
	if version == ledVersion+written(g.AsOf) {
		return true, true
	}
	if text, led := strings.CutPrefix(version, askedVersion); led {
		at, err := strconv.ParseInt(text, 36, 64)
		return err == nil && g.Calendar.Now.Sub(time.UnixMicro(at)) < askedFor, true
	}
	return false, strings.HasPrefix(version, ledVersion)
}

// limited is how a reader with limits sees records that stay in their databases.
func (g *Scope) limited(policy access.Policy, cut *table.Cut) pgreader.Seen {
	seen := pgreader.Seen{
		All: g.staying, Links: g.staying.Links, Keys: g.staying.Keys,
		Rows: map[string][]int32{}, Rules: map[string][]*plan.Plan{},
	}
	for _, set := range g.Catalog.Sets {
		if rows := cut.Kept(set.Key); rows != nil {
			seen.Rows[set.Key] = rows
		}
		if !set.Stays {
			continue
		}
		for _, rule := range policy[set.Key].Rules {
			p, err := g.Check(rule)
			if err != nil || len(p.MissingParameters) > 0 || rule.Records != set.Key {
				p = nil // it keeps nothing
			}
			seen.Rules[set.Key] = append(seen.Rules[set.Key], p)
		}
	}
	return seen
}

// awayLinks are links that people have declared, from or to records that stay.
func awayLinks(led []description.Led) []records.AwayLink {
	var out []records.AwayLink
	for _, l := range led {
		out = append(out, records.AwayLink{
			Key: l.Key, From: l.From, To: l.To, Columns: l.By, ToColumns: l.Into,
		})
	}
	return out
}
