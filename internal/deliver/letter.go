package deliver

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/mail"
	"net/url"
	"time"

	"gavrik/internal/app"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/result"
	"gavrik/internal/core/trigger"
	"gavrik/internal/core/turn"
	"gavrik/internal/core/view"
	"gavrik/internal/scheduler"
	"gavrik/internal/store"
)

// keptError says why a letter must not be sent to whom it is for.
type keptError struct{ why string }

func (e *keptError) Error() string { return e.why }

// deliver sends one letter, and writes down what became of it. last says that it is not tried again.
// An error is a reason to try again.
func (s *Service) deliver(ctx context.Context, id int64, last bool) error {
	l, err := s.app.Store.Letter(ctx, id)
	if err != nil {
		return notThere(err) // its delivery was ended
	}
	d, err := s.app.Store.Delivery(ctx, l.Delivery)
	if err != nil {
		return notThere(err)
	}
	again, ok, err := s.app.Store.TryLetter(ctx, id)
	if err != nil || !ok {
		return err
	}
	l.Tries++
	// Letters of one owner take their turns beside what people ask, and beside those of others.
	job := s.app.Scheduler.Enter(fmt.Sprint("deliveries of ", d.OwnerID))
	defer job.Leave()
	err = s.write(turn.With(ctx, job), d, &l, again)
	l.At = s.app.Workspace.Now()
	var kept *keptError
	var failed *SendError
	switch {
	case err == nil:
		if err := s.app.Store.SetLetter(ctx, l); err != nil {
			return err
		}
		s.note(ctx, d, l)
		return nil
	case errors.As(err, &kept):
		l.State, l.Why = store.LetterKept, kept.why
		return s.app.Store.SetLetter(ctx, l)
	case errors.As(err, &failed):
		l.Why, last = failed.Why, last || failed.Final
	default:
		l.Why = s.wrong(d, err)
	}
	switch {
	case last:
		l.State, err = store.LetterFailed, nil
	case failed != nil && failed.Maybe:
		l.State = store.LetterSending // the next one says that it may be the second
	default:
		l.State = store.LetterWaiting
	}
	return errors.Join(err, s.app.Store.SetLetter(context.WithoutCancel(ctx), l))
}

// note tells the audit trail what has left, and to whom.
func (s *Service) note(ctx context.Context, d store.Delivery, l store.Letter) {
	if l.State != store.LetterSent || l.Notice != "" {
		return
	}
	about := fmt.Sprintf("view “%s” delivered to %s, %d records", d.ViewName, l.Address, l.Records)
	if d.Kind == store.BoardKind {
		about = fmt.Sprintf("board “%s” delivered to %s", d.ViewName, l.Address)
	}
	err := s.app.Store.Note(
		context.WithoutCancel(ctx), store.Event{Who: d.OwnerName, What: store.Exported, About: about},
	)
	if err != nil { // it has left all the same
		s.app.Log.Error("audit", "error", err)
	}
}

// wrong says what is wrong as those who look after a delivery are told it; what is nothing to them is logged.
func (s *Service) wrong(d store.Delivery, err error) string {
	var of *app.TermsError
	var faults plan.Faults
	var limit *result.LimitError
	var busy *scheduler.BusyError
	switch {
	case errors.As(err, &of), errors.As(err, &faults):
		return "the view cannot run: " + err.Error()
	case errors.As(err, &limit), errors.As(err, &busy), errors.Is(err, turn.ErrBusy):
		return "it could not be worked out: " + err.Error()
	case errors.Is(err, context.DeadlineExceeded):
		return fmt.Sprintf("it was not done after %d minutes; keep fewer records", letterTime/time.Minute)
	}
	s.app.Log.Error("letter", "delivery", d.Key, "error", err)
	return "it could not be worked out; the log of the server says why"
}

// write answers the view as the letter's reader sees it, and sends it.
func (s *Service) write(ctx context.Context, d store.Delivery, l *store.Letter, again bool) error {
	t, rule, content, err := TermsOf(d)
	if err != nil {
		return err
	}
	out := addressed{
		ID:      fmt.Sprintf("letter-%d-%s@%s", l.ID, d.Key, cmp.Or(s.app.Public.Hostname(), "gavrik.invalid")),
		Address: l.Address, At: s.app.Workspace.Now(), Try: l.Tries,
	}
	if l.Person != nil {
		out.Name = l.Name
	}
	p := letterPage{Again: again, Notice: l.Notice, Why: why(d, rule, l.Of)}
	if l.Notice != "" {
		out.Subject, p.Link = "Paused: "+d.ViewName, s.linkTo("/deliveries", nil)
		if err := out.fill(p); err != nil {
			return err
		}
		l.State, l.Bytes = store.LetterSent, out.Bytes()
		return s.sendMail(ctx, out)
	}
	reader, err := s.readerOf(ctx, d, *l)
	if err != nil {
		return err
	}
	link, m := s.linkTo(pathOf(d), t.Answers), (*made)(nil)
	if d.Kind == store.BoardKind {
		if m, err = s.ofBoard(ctx, reader, d, t, content, fmt.Sprint(l.Run)); err != nil {
			return err
		}
	} else if m, err = s.ofView(ctx, reader.scope, d, l, t, content); err != nil || m == nil {
		return err
	}
	if l.Of != store.RunToMe && !l.Hook {
		out.Stop = s.stopLink(d.Key, l.Address)
	}
	if p.Stop = out.Stop; l.Person != nil { // who is outside cannot open it
		p.Link = link
	}
	if out.Written, err = compose(d, content, m, p); err != nil {
		return err
	}
	l.State, l.Bytes = store.LetterSent, out.Bytes()
	if l.Hook {
		return post(ctx, s.hooks, d, out, link, again)
	}
	return s.sendMail(ctx, out)
}

// ofView is what a letter says of a view, worked out for its reader; nil, if what the delivery waits for is not so.
func (s *Service) ofView(
	ctx context.Context, g *app.Scope, d store.Delivery, l *store.Letter, t app.Terms, content Content,
) (*made, error) {
	before := ""
	if t.Trigger.On == trigger.Changed {
		var err error
		if before, err = s.app.Store.LastDigest(ctx, d.Key, l.Address); err != nil {
			return nil, err
		}
	}
	found, err := t.Look(ctx, g, d.Document, before)
	if err != nil {
		return nil, err
	}
	l.Digest, l.Records = found.Digest, int64(found.Kept)
	if !found.Met && l.Of == store.RunDue {
		l.State, l.Why = store.LetterIdle, found.Words
		return nil, nil
	}
	return s.making(ctx, fmt.Sprint(l.Run, g.Sees(), found.Name), func() (*made, error) {
		return s.make(ctx, d, content, found.Answer)
	})
}

func (s *Service) sendMail(ctx context.Context, l addressed) error {
	if s.Mail == nil {
		return &SendError{Why: "no mail server is set up; whoever runs Gavrik has to name one with --mail-server", Final: true}
	}
	return s.Mail.send(ctx, l)
}

// linkTo leads into Gavrik, if it was told where it is reached.
func (s *Service) linkTo(path string, answers map[string]view.Given) string {
	if s.app.Public.Host == "" {
		return ""
	}
	out := s.app.Public.String() + path
	if text, err := json.Marshal(answers); err == nil && len(answers) > 0 {
		out += "?" + url.Values{"answers": {string(text)}}.Encode()
	}
	return out
}

// pathOf is where what is delivered opens.
func pathOf(d store.Delivery) string {
	if d.Kind == store.BoardKind {
		return "/b/" + d.View
	}
	return "/v/" + d.View
}

// why says to its reader why she gets a letter.
func why(d store.Delivery, rule *recurrence.Rule, of store.RunOf) string {
	when := ""
	if rule != nil {
		when = ", " + rule.Words()
	}
	if of == store.RunToMe {
		return "You asked to see this letter. It is sent by " + d.OwnerName + when + "."
	}
	return d.OwnerName + " has this sent to you" + when + "."
}

// reader is whose eyes a letter is written for: its reader's or, for an address outside, the owner's.
type reader struct {
	person store.Person
	scope  *app.Scope
	// of is what is delivered, as it is shared with the person.
	of store.View
}

// readerOf is the reader of a letter, or why she is sent nothing.
func (s *Service) readerOf(ctx context.Context, d store.Delivery, l store.Letter) (r reader, err error) {
	if d.PausedAt != nil && l.Of == store.RunDue {
		return r, &keptError{"it was paused before this was sent"}
	}
	if l.Of != store.RunToMe && !l.Hook {
		stopped, err := s.app.Store.Stopped(ctx, d.Key, l.Address)
		if err != nil {
			return r, err
		}
		if stopped {
			return r, &keptError{"they do not want it any more"}
		}
	}
	if l.Person == nil {
		r.person, r.scope, err = s.outside(ctx, d, l)
	} else {
		r.person, r.scope, err = s.inside(ctx, *l.Person, l.Name)
	}
	if err != nil {
		return r, err
	}
	r.of, err = s.app.Store.View(ctx, r.person.ID, d.View)
	if errors.Is(err, store.ErrNotFound) {
		return r, &keptError{r.person.Name + " may not see this view; share it with them"}
	}
	if err == nil && r.scope.LeastOfView(r.of) > 0 { // each part of a board sees to it
		err = &keptError{r.person.Name + " " + totalsAlone}
	}
	return r, err
}

// totalsAlone is why a view is not sent with its records.
const totalsAlone = "sees the totals of this view alone, without its records; a board with parts of it can be sent"

// inside is what somebody who works with Gavrik sees herself.
func (s *Service) inside(ctx context.Context, id int64, name string) (store.Person, *app.Scope, error) {
	p, err := s.app.Store.Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && p.LeftAt != nil {
		return p, nil, &keptError{name + " has left"}
	}
	if err != nil {
		return p, nil, err
	}
	g, err := s.app.Scope(ctx, p)
	return p, g, err
}

// outside is what may leave to an address outside, or to one on the web: what the owner may see,
// without sensitive fields unless an administrator has let them leave.
func (s *Service) outside(ctx context.Context, d store.Delivery, l store.Letter) (p store.Person, g *app.Scope, err error) {
	if !l.Hook {
		allowed, err := s.Outside(ctx)
		if err != nil {
			return p, nil, err
		}
		if _, err := mail.ParseAddress(l.Address); err != nil || !allowed.Allows(l.Address) {
			return p, nil, &keptError{"administrators do not allow letters to " + l.Address}
		}
	}
	if p, err = s.app.Store.Person(ctx, d.OwnerID); err != nil {
		return p, nil, err
	}
	g, err = s.app.SeenOutside(ctx, p, d.Sensitive)
	return p, g, err
}

// Outside says to which addresses outside letters may go.
func (s *Service) Outside(ctx context.Context) (Outside, error) {
	text, err := s.app.Store.OutsideAddresses(ctx)
	if err != nil {
		return nil, err
	}
	return ReadOutside(text)
}

// Preview is the letter that a delivery would send to a person now.
func (s *Service) Preview(ctx context.Context, d store.Delivery, p store.Person) (Written, app.Found, error) {
	g, err := s.app.Scope(ctx, p)
	if err != nil {
		return Written{}, app.Found{}, err
	}
	t, rule, content, err := TermsOf(d)
	if err != nil {
		return Written{}, app.Found{}, err
	}
	around := letterPage{Why: why(d, rule, store.RunDue), Link: s.linkTo(pathOf(d), t.Answers)}
	if d.Kind == store.BoardKind {
		of, err := s.app.Store.View(ctx, p.ID, d.View)
		if err != nil {
			return Written{}, app.Found{}, err
		}
		m, err := s.ofBoard(ctx, reader{p, g, of}, d, t, content, fmt.Sprint("preview ", s.app.Workspace.Now().UnixNano()))
		if err != nil {
			return Written{}, app.Found{}, err
		}
		out, err := compose(d, content, m, around)
		return out, app.Found{Met: true}, err
	}
	found, err := t.Look(ctx, g, d.Document, "")
	if err != nil {
		return Written{}, found, err
	}
	m, err := s.make(ctx, d, content, found.Answer)
	if err != nil {
		return Written{}, found, err
	}
	out, err := compose(d, content, m, around)
	return out, found, err
}
