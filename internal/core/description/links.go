package description

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// links says what is said about links, and adds those that no key of the database declares.
func (a *applying) links(ctx context.Context, set *catalog.RecordSet, said *SetWords) error {
	for _, key := range sorted(said.Links) {
		l := said.Links[key]
		at := "links." + key
		i := slices.IndexFunc(set.Links, func(l catalog.Link) bool { return l.Key == key })
		switch {
		case l.Leads != nil && (i >= 0 || set.Field(key) != nil):
			a.problem(set, at, "%s have a field or a link %q already; call the added one otherwise.", set.Label, key)
			continue
		case l.Leads != nil:
			added, err := a.lead(ctx, set, key, l)
			if err != nil {
				return err
			}
			if !added {
				continue
			}
			i = len(set.Links) - 1
		case i < 0:
			a.problem(set, at, "%s have no link %q any more; what is said about it waits for it to come back.", set.Label, key)
			continue
		}
		set.Links[i].Former = l.Formerly
		if l.Label != "" && l.Label != set.Links[i].Label {
			if !set.Links[i].Added {
				set.Links[i].Former = append([]string{set.Links[i].Label}, l.Formerly...)
			}
			set.Links[i].Label = l.Label
		}
		if l.Meaning != nil {
			set.Links[i].Meaning = *l.Meaning
		}
		set.Links[i].Back, set.Links[i].Hidden = l.Back, l.Hidden
		for j := range set.Links {
			if j != i && strings.EqualFold(set.Links[j].Label, set.Links[i].Label) {
				a.problem(set, at+".label", "Two links of %s would be called “%s”; choose another label.", set.Label, set.Links[i].Label)
			}
		}
	}
	return nil
}

func sorted(links map[string]*LinkWords) []string {
	out := make([]string, 0, len(links))
	for key := range links {
		out = append(out, key)
	}
	slices.Sort(out)
	return out
}

// lead adds a link to the records that hold the same in some fields; it says whether it could.
func (a *applying) lead(ctx context.Context, set *catalog.RecordSet, key string, l *LinkWords) (bool, error) {
	at := "links." + key + ".leads"
	to := a.out.Catalog.Set(l.Leads.To)
	switch {
	case to == nil:
		a.problem(set, at, "The link %q leads to %q, and there is no such record set any more; the link waits for it to come back.",
			key, l.Leads.To)
		return false, nil
	case key == "" || strings.ContainsAny(key, ". "):
		a.problem(set, at, "%q cannot be the key of a link; write a word without points and spaces.", key)
		return false, nil
	case len(l.Leads.By) == 0 || len(l.Leads.By) != len(l.Leads.Into):
		a.problem(set, at, "The link %q needs as many fields here as there; it has %d and %d.", key, len(l.Leads.By), len(l.Leads.Into))
		return false, nil
	}
	if set.Stays || to.Stays {
		return a.leadAway(ctx, set, to, key, l)
	}
	here, there := a.out.Snapshot.Tables[set.Key], a.out.Snapshot.Tables[to.Key]
	from, into := make([]table.Column, len(l.Leads.By)), make([]table.Column, len(l.Leads.By))
	for i := range from {
		f, g := set.Field(l.Leads.By[i]), to.Field(l.Leads.Into[i])
		if f == nil || g == nil {
			lacks, which := set, l.Leads.By[i]
			if f != nil {
				lacks, which = to, l.Leads.Into[i]
			}
			a.problem(set, at, "The link %q goes by a field %q, which %s do not have.", key, which, lacks.Many)
			return false, nil
		}
		if f.Approx || g.Approx || f.Type != g.Type && !(f.Type.Numeric() && g.Type.Numeric()) {
			a.problem(set, at, "%s is %s and %s of %s is %s; a link goes by fields of one type. Say that one of them is of the other’s.",
				f.Label, f.Type.Word(), g.Label, to.Many, g.Type.Word())
			return false, nil
		}
		from[i], into[i] = table.Rescaled(here.Column(f.Key), f.Scale, g.Scale), there.Column(g.Key)
	}
	name := to.Key
	for i := range from {
		name += fmt.Sprintf(
			" %d %d %d", here.Column(l.Leads.By[i]).ID(), into[i].ID(), to.Field(l.Leads.Into[i]).Scale,
		)
	}
	made, shared := a.before.links[name], int32(-1)
	if made == nil {
		rows, twice, err := table.Match(ctx, from, into)
		if err != nil {
			return false, err
		}
		made, shared = &table.Links{To: to.Key, Rows: rows}, twice
	}
	if shared >= 0 {
		a.problem(set, at, "Two %s share %s, so that a link could lead to either; choose fields that no two of them share.",
			to.Many, valuesAt(to, l.Leads.Into, there, shared))
		return false, nil
	}
	set.Links = append(set.Links, catalog.Link{Key: key, Label: catalog.UpperFirst(strings.ReplaceAll(key, "_", " ")), To: to.Key, Added: true, By: l.Leads.By})
	a.out.Read.links[name] = made
	a.out.Snapshot.Tables[set.Key] = here.WithLink(key, made)
	return true, nil
}

// leadAway adds a link from or to records that stay in their database, by a field that both have as the
// database has it. That no two records there share a value is seen when somebody asks.
func (a *applying) leadAway(
	ctx context.Context, set, to *catalog.RecordSet, key string, l *LinkWords,
) (bool, error) {
	at := "links." + key + ".leads"
	if len(l.Leads.By) != 1 || set.Stays && to.Stays {
		a.problem(set, at, "The link %q is from or to records that stay in their database: such a one goes by a single field, and to "+
			"or from records in memory.", key)
		return false, nil
	}
	f, g := set.Field(l.Leads.By[0]), to.Field(l.Leads.Into[0])
	loadedF := a.from.Catalog.Set(set.Key).Field(l.Leads.By[0])
	loadedG := a.from.Catalog.Set(to.Key).Field(l.Leads.Into[0])
	if f == nil || g == nil || loadedF == nil || loadedG == nil || f.Type != g.Type || f.Scale != g.Scale || f.Approx ||
		f.Type != loadedF.Type || g.Type != loadedG.Type {
		a.problem(set, at, "The link %q is from or to records that stay in their database: it goes by fields that are of one type there.", key)
		return false, nil
	}
	there := a.out.Snapshot.Tables[to.Key]
	into := []table.Column{there.Column(g.Key)}
	switch _, shared, err := table.Match(ctx, into, into); {
	case err != nil:
		return false, err
	case shared >= 0:
		a.problem(set, at, "Two %s share %s, so that a link could lead to either; choose a field that no two of them share.",
			to.Many, valuesAt(to, l.Leads.Into, there, shared))
		return false, nil
	}
	set.Links = append(set.Links, catalog.Link{
		Key: key, Label: catalog.UpperFirst(strings.ReplaceAll(key, "_", " ")), To: to.Key, Added: true, By: l.Leads.By,
	})
	here := a.out.Snapshot.Tables[set.Key]
	nowhere := make([]int32, here.Rows)
	for i := range nowhere {
		nowhere[i] = -1
	}
	a.out.Snapshot.Tables[set.Key] = here.WithLink(key, &table.Links{To: to.Key, Rows: nowhere})
	a.out.Led = append(a.out.Led, Led{Key: key, From: set.Key, To: to.Key, By: l.Leads.By, Into: l.Leads.Into})
	return true, nil
}

// valuesAt names the values that several records share.
func valuesAt(set *catalog.RecordSet, fields []string, t *table.Table, row int32) string {
	var words []string
	for _, key := range fields {
		f := set.Field(key)
		text := ""
		switch c := t.Column(key).(type) {
		case *table.Texts:
			text = " “" + c.Dict.Value(c.Codes[row]) + "”"
		case *table.Numbers:
			if f.Type == catalog.Whole {
				text = fmt.Sprintf(" %d", c.Values[row])
			}
		}
		words = append(words, catalog.LowerFirst(f.Label)+text)
	}
	return strings.Join(words, " and ")
}
