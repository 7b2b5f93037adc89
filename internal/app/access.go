package app

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"gavrik/internal/core/access"
	"gavrik/internal/core/cache"
	"gavrik/internal/core/table"
	"gavrik/internal/people"
	"gavrik/internal/pgreader"
	"gavrik/internal/store"
)

// SeenBy is a scope as a person sees it. People who see the same share it.
func (a *App) SeenBy(ctx context.Context, full *Scope, p store.Person) (*Scope, error) {
	return a.seen(ctx, full, p, people.PolicyOf(p, full.Agreed.Groups, full.Agreed.Sensitive))
}

// SeenOutside is a scope as it may leave to addresses outside for a person: as she sees it herself,
// and without sensitive fields unless they are allowed to leave.
func (a *App) SeenOutside(ctx context.Context, p store.Person, sensitive bool) (*Scope, error) {
	full, err := a.FullScope(ctx)
	if err != nil {
		return nil, err
	}
	policy := people.PolicyOf(p, full.Agreed.Groups, full.Agreed.Sensitive)
	if !sensitive {
		for _, f := range full.Agreed.Sensitive {
			policy.Add(f.Set, access.Restriction{Fields: []string{f.Field}})
		}
	}
	return a.seen(ctx, full, p, policy)
}

func (a *App) seen(ctx context.Context, full *Scope, p store.Person, policy access.Policy) (*Scope, error) {
	if !policy.Clear() {
		policy = a.hidingNew(full, policy)
	}
	// What somebody brought in is seen by whom its owner has let see it, and by administrators.
	for _, b := range full.Agreed.BroughtIn {
		if !SeesBroughtIn(p, b) {
			policy.Add(b.Set, access.Restriction{Hidden: true, Unsaid: true})
		}
	}
	if policy.Clear() {
		return full, nil
	}
	return a.restricted(ctx, full, policy)
}

// SeesBroughtIn says whether a person sees a record set that was brought in as a file.
func SeesBroughtIn(p store.Person, b store.BroughtIn) bool {
	if p.Administrator() || b.Owner == p.ID {
		return true
	}
	return slices.ContainsFunc(b.Shares, func(s store.Share) bool {
		if s.Group != 0 {
			return slices.ContainsFunc(p.Groups, func(g store.GroupName) bool { return g.ID == s.Group })
		}
		return s.Role == "" || s.Role == p.Role
	})
}

// hidingNew is a policy that restricts, too, what came after it was made.
func (a *App) hidingNew(full *Scope, policy access.Policy) access.Policy {
	out := maps.Clone(policy)
	if !a.ShowNewFields {
		out.Hide(full.Catalog, func(set, field string) bool {
			// Of files, their owners decide; no limit was made before they came.
			return full.Agreed.BroughtInAs(set) != nil || full.Agreed.Shows(set, field)
		})
	}
	return out
}

// restricted is a scope without what a policy restricts. It is made once for all who see the
// same, and again only if the records or a rule have changed: not with every definition
// that somebody saves.
func (a *App) restricted(ctx context.Context, full *Scope, policy access.Policy) (*Scope, error) {
	text, err := json.Marshal(policy)
	if err != nil {
		return nil, err
	}
	rules := ""
	for _, part := range policy.Ordered() {
		for _, rule := range part.Rules {
			// Rules may speak of relative periods, and use shared definitions.
			if p, err := full.Check(rule); err == nil {
				rules += p.Fingerprint()
			} else {
				rules += err.Error()
			}
		}
	}
	key := fmt.Sprintf("%s %d %x", full.name, full.Calendar.Today(), sha256.Sum256([]byte(string(text)+"\x00"+rules)))
	// Whoever asked first may give up; others wait for it, too.
	making := context.WithoutCancel(ctx)
	h, err := cache.Get(ctx, full.restricted, key, func() (*Dataset, int64, error) {
		return a.restrict(making, full, policy, key)
	})
	if err != nil {
		return nil, err
	}
	return &Scope{Dataset: h, Agreed: full.Agreed, Facts: full.Facts, Calendar: full.Calendar}, nil
}

// restrict makes the dataset without what is restricted for a reader; bytes is what they hold of
// their own.
func (a *App) restrict(
	ctx context.Context, full *Scope, policy access.Policy, key string,
) (h *Dataset, bytes int64, err error) {
	// Where records lead that stay, too, the database sees to.
	known := map[access.Lead]bool{}
	for more := true; more; {
		more = false
		for _, lead := range policy.Leads(full.Catalog, known) {
			if full.staying.TellsBelonging(lead.Set, lead.Link) {
				known[lead], more = true, true
			}
		}
	}
	h, err = a.cut(ctx, full, policy.Staying(full.Catalog, known), nil, key)
	leads := slices.DeleteFunc(policy.Leads(full.Catalog, known), func(l access.Lead) bool {
		return full.Catalog.Set(l.Set).Stays
	})
	if err != nil || len(leads) == 0 {
		return h, h.ownBytes(full), err
	}
	// Where records lead that are in memory, the database is asked as this reader sees it.
	out := map[string][]bool{}
	var failed error
	for _, lead := range leads {
		gone, err := h.staying.Unseen(ctx, lead.Set, lead.Link)
		var not *pgreader.Refused
		switch {
		case errors.As(err, &not): // less is seen, not more
			continue
		case err != nil:
			failed = err
			continue
		}
		known[lead] = true
		out[lead.Set] = joined(out[lead.Set], gone)
	}
	if failed != nil {
		a.Log.Warn("access", "asking where records lead that stay", failed.Error())
	}
	h, err = a.cut(ctx, full, policy.Staying(full.Catalog, known), out, key)
	bytes = h.ownBytes(full)
	if failed != nil {
		bytes = math.MaxInt64 // it is asked again the next time
	}
	return h, bytes, err
}

// joined marks what either marks.
func joined(a, b []bool) []bool {
	if a == nil {
		return b
	}
	for i, is := range b {
		a[i] = a[i] || is
	}
	return a
}

// cut is the dataset without what a policy restricts, and without the rows that out marks.
func (a *App) cut(
	ctx context.Context, full *Scope, policy access.Policy, out map[string][]bool, key string,
) (*Dataset, error) {
	var before *table.Cut
	if was := full.before.Load(); was != nil {
		if d := was.sees(key); d != nil {
			before = d.cut
		}
	}
	snap, err := policy.Snapshot(ctx, full.engine.Snapshot(), full.Catalog, full.kept, full.Check, out, before)
	if snap == nil {
		return nil, err
	}
	if err != nil { // less is seen, not more
		a.Log.Error("access", "error", err)
	}
	seen := pgreader.Seen{}
	if full.staying != nil {
		seen = full.limited(policy, snap)
	}
	h := newDataset(key, snap.Snapshot, policy.Catalog(full.Catalog), full.shared, seen)
	h.policy, h.describing, h.cut = policy, full.describing, snap
	h.Fewer = map[string]bool{}
	for name, t := range snap.Tables {
		h.Fewer[name] = t.Rows < full.engine.Snapshot().Tables[name].Rows || h.staying != nil && h.staying.Limited(name)
	}
	return h, nil
}

// ownBytes is what restricted records hold of their own; nothing if there are none.
func (d *Dataset) ownBytes(full *Scope) int64 {
	if d == nil {
		return 0
	}
	return table.OwnBytes(d.cut.Snapshot, full.engine.Snapshot())
}
