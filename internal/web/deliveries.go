package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/format"
	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/trigger"
	"gavrik/internal/core/view"
	"gavrik/internal/deliver"
	"gavrik/internal/store"
)

// deliveries sends views by mail and to addresses on the web.
type deliveries struct {
	recurring
	*deliver.Service
}

// DeliveryTerms are what its owner says of a delivery.
type DeliveryTerms struct {
	When      *recurrence.Rule      `json:"when,omitempty" doc:"Left out: it is sent once, now"`
	Answers   map[string]view.Given `json:"answers,omitempty" doc:"To the view's questions, by their names"`
	Trigger   trigger.Trigger       `json:"trigger,omitzero" doc:"It is sent only if this is met, for each as each may see it"`
	Content   deliver.Content       `json:"content"`
	People    []int64               `json:"people" maxItems:"200"`
	Groups    []int64               `json:"groups" maxItems:"50"`
	Addresses []string              `json:"addresses,omitempty" maxItems:"1000" doc:"Outside, where administrators allow them"`
	Hook      string                `json:"hook,omitempty" maxLength:"2000" doc:"An HTTPS address that it is posted to"`
}

// Delivery is a view that is sent.
type Delivery struct {
	Key       string        `json:"key"`
	View      string        `json:"view" doc:"Key of its view"`
	Kind      store.Kind    `json:"kind" enum:"view,board" doc:"Whether that is a view or a board"`
	Name      string        `json:"name" doc:"Of its view"`
	Owner     string        `json:"owner"`
	Mine      bool          `json:"mine"`
	Terms     DeliveryTerms `json:"terms"`
	Words     string        `json:"words" doc:"When, to whom, with what, and only if"`
	Stand     string        `json:"stand" doc:"When it comes next, in words"`
	Last      string        `json:"last" doc:"What became of the last one, in words"`
	Waiting   int           `json:"waiting" doc:"Letters of the last one that are on their way"`
	Failed    int           `json:"failed" doc:"Letters of the last one that were not taken"`
	Paused    bool          `json:"paused"`
	PausedWhy string        `json:"pausedWhy,omitempty" doc:"Why it paused by itself"`
	Sensitive bool          `json:"sensitive" doc:"Sensitive fields may leave with it to addresses outside"`
	Secret    string        `json:"secret,omitempty" doc:"What posts to its address are signed with"`
}

// SentLetter is what became of one letter.
type SentLetter struct {
	ID      int64     `json:"id"`
	Run     int64     `json:"run" doc:"Letters of one time have the same"`
	Of      string    `json:"of" enum:"due,now,me,notice" doc:"Why it was written: its time came; sent by hand to all; to see it; to tell that it stopped"`
	To      string    `json:"to"`
	Address string    `json:"address"`
	At      time.Time `json:"at"`
	State   string    `json:"state" enum:"waiting,sending,sent,idle,kept,failed"`
	Words   string    `json:"words" doc:"What became of it, in words"`
	Bytes   int64     `json:"bytes,omitempty"`
	Records int64     `json:"records,omitempty"`
	Tries   int       `json:"tries,omitempty"`
}

type (
	deliveriesOutput struct {
		Body struct {
			Deliveries []Delivery `json:"deliveries" doc:"One's own or, for administrators, everybody's; the newest first"`
			Mails      bool       `json:"mails" doc:"There is a mail server"`
			Outside    string     `json:"outside" doc:"Domains outside that letters may go to, between commas; * is every one"`
		}
	}
	deliveryOutput   struct{ Body Delivery }
	addDeliveryInput struct {
		Body struct {
			View string `json:"view" maxLength:"40" doc:"Key of a saved view"`
			DeliveryTerms
		}
		caller
	}
	setDeliveryInput struct {
		Key  string `path:"key"`
		Body DeliveryTerms
		caller
	}
	ofDelivery struct {
		Key string `path:"key"`
		caller
	}
	pauseInput struct {
		Key  string `path:"key"`
		Body struct {
			Paused bool `json:"paused"`
		}
	}
	handDeliveryInput struct {
		Key  string `path:"key"`
		Body struct {
			To int64 `json:"to" doc:"Number of its new owner"`
		}
		caller
	}
	letSensitiveInput struct {
		Key  string `path:"key"`
		Body struct {
			Allowed bool `json:"allowed"`
		}
		caller
	}
	sendInput struct {
		Key  string `path:"key"`
		Body struct {
			All bool `json:"all,omitempty" doc:"To everybody it goes to, not to oneself alone"`
		}
	}
	lettersOutput struct {
		Body struct {
			Letters []SentLetter `json:"letters" doc:"The newest first"`
		}
	}
	retryInput struct {
		Key    string `path:"key"`
		Letter int64  `path:"letter"`
	}
	previewLetterOutput struct {
		Body struct {
			Subject string   `json:"subject"`
			HTML    string   `json:"html"`
			Text    string   `json:"text"`
			Files   []string `json:"files" doc:"Names and sizes of what is attached"`
			Met     bool     `json:"met" doc:"It would be sent now"`
			Found   string   `json:"found" doc:"What was found when that was looked at"`
		}
	}
	outsideInput struct {
		Body struct {
			Outside string `json:"outside" maxLength:"4000" doc:"Domains between commas; * is every one"`
		}
		caller
	}
)

func (s *deliveries) registerDeliveries(api huma.API) {
	op := func(id, method, path, summary string, codes ...int) huma.Operation {
		return huma.Operation{
			OperationID: id, Method: method, Path: path, Summary: summary, Metadata: analysts, Errors: append(codes, 403),
		}
	}
	huma.Register(api, op("deliveries", http.MethodGet, "/api/deliveries", "What is sent by itself"), s.list)
	add := op("add-delivery", http.MethodPost, "/api/deliveries", "Have a view sent, once or again and again", 404, 422)
	add.DefaultStatus = http.StatusCreated
	huma.Register(api, add, s.add)
	huma.Register(api, op(
		"preview-delivery", http.MethodPost, "/api/deliveries/preview", "The letter that would be sent to oneself", 404, 422,
	), s.preview)
	huma.Register(api, op(
		"set-delivery", http.MethodPut, "/api/deliveries/{key}", "Change a delivery", 404, 422,
	), s.set)
	huma.Register(api, op("end-delivery", http.MethodDelete, "/api/deliveries/{key}",
		"End a delivery; what is known of its letters goes, too", 404), s.end)
	huma.Register(api, op("pause-delivery", http.MethodPut, "/api/deliveries/{key}/paused",
		"Let a delivery rest, or go on", 404), s.pause)
	huma.Register(api, op("hand-over-delivery", http.MethodPut, "/api/deliveries/{key}/owner",
		"Hand a delivery over to somebody else", 404, 422), s.hand)
	huma.Register(api, op("send-delivery", http.MethodPost, "/api/deliveries/{key}/send",
		"Send a delivery now, to oneself or to all", 404, 422), s.send)
	huma.Register(api, op("letters", http.MethodGet, "/api/deliveries/{key}/letters",
		"What was sent, to whom, and what became of it", 404), s.letters)
	huma.Register(api, op("retry-letter", http.MethodPost, "/api/deliveries/{key}/letters/{letter}/retry",
		"Send a letter after all that had failed", 404), s.retry)
	let := op("let-sensitive-leave", http.MethodPut, "/api/deliveries/{key}/sensitive",
		"Let sensitive fields leave with a delivery to addresses outside, or not", 404)
	let.Metadata = administrators
	huma.Register(api, let, s.letSensitive)
	outside := op("allow-outside", http.MethodPut, "/api/outside-addresses", "Say to which addresses outside letters may go", 422)
	outside.Metadata = administrators
	huma.Register(api, outside, s.allowOutside)
}

// deliveryGone is said of a delivery that is not there, or not the reader's.
const deliveryGone = "There is no such delivery, or it is not yours. It may have been ended."

func (s *deliveries) deliveryFailed(ctx context.Context, err error) error {
	var many *store.TooManyError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(deliveryGone)
	case errors.As(err, &many):
		return huma.Error422UnprocessableEntity(sentence(many.Error()))
	}
	return s.failed(ctx, "delivery", err)
}

// own is a delivery that the reader may change: one of her own or, for administrators, any.
func (s *deliveries) own(ctx context.Context, key string) (store.Delivery, error) {
	d, err := s.Store.Delivery(ctx, key)
	if err == nil && d.OwnerID != who(ctx).ID && !who(ctx).Administrator() {
		err = store.ErrNotFound
	}
	return d, s.deliveryFailed(ctx, err)
}

func (s *deliveries) list(ctx context.Context, _ *struct{}) (*deliveriesOutput, error) {
	list, err := s.Store.Deliveries(ctx, who(ctx).ID, who(ctx).Administrator())
	if err != nil {
		return nil, s.failed(ctx, "deliveries", err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	allowed, err := s.Outside(ctx)
	if err != nil {
		return nil, s.failed(ctx, "deliveries", err)
	}
	out := &deliveriesOutput{}
	out.Body.Mails, out.Body.Outside, out.Body.Deliveries = s.Mails(), allowed.String(), make([]Delivery, len(list))
	for i, d := range list {
		if out.Body.Deliveries[i], err = s.told(ctx, g, d); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// told is a delivery as its reader is told of it.
func (s *deliveries) told(ctx context.Context, g *requestScope, d store.Delivery) (Delivery, error) {
	out := Delivery{
		Key: d.Key, View: d.View, Kind: d.Kind, Name: d.ViewName, Owner: d.OwnerName, Mine: d.OwnerID == who(ctx).ID,
		Paused: d.PausedAt != nil, PausedWhy: d.PausedWhy, Sensitive: d.Sensitive, Secret: d.HookSecret, Failed: d.Failed,
		Waiting: d.Waiting,
	}
	t, rule, content, err := deliver.TermsOf(d)
	if err != nil {
		return out, s.failed(ctx, "delivery", err)
	}
	out.Terms = DeliveryTerms{
		When: rule, Answers: t.Answers, Trigger: t.Trigger, Content: content, People: []int64{}, Groups: []int64{},
		Addresses: d.Addresses, Hook: d.Hook,
	}
	var to []string
	for _, group := range d.Groups {
		out.Terms.Groups, to = append(out.Terms.Groups, group.ID), append(to, "the "+group.Name)
	}
	for _, p := range d.People {
		out.Terms.People = append(out.Terms.People, p.ID)
		if p.ID == who(ctx).ID {
			p.Name = "you"
		}
		to = append(to, p.Name)
	}
	to = append(to, d.Addresses...)
	if d.Hook != "" {
		to = append(to, d.Hook)
	}
	out.Words = deliver.When(rule) + " to " + manyWords(to) + filesWords(content)
	if d.Kind == store.BoardKind {
		// it comes always
	} else if words := triggerWords(g, t, d.Document); words != "" && rule != nil {
		out.Words += ", " + words
	}
	now, zone := s.Workspace.Now(), g.Calendar.Zone
	if d.NextAt != nil && d.PausedAt == nil {
		out.Stand = "next " + dayWords(*d.NextAt, now, zone)
	}
	if d.LastAt != nil {
		out.Last = lastWords(d, dayWords(*d.LastAt, now, zone))
	}
	return out, nil
}

// manyWords name several, and no more than fit a line.
func manyWords(names []string) string {
	if n := len(names) - 4; n > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:4], ", "), n)
	}
	return format.Listed(names)
}

func filesWords(c deliver.Content) string {
	names := map[string]string{"xlsx": "a spreadsheet", "pdf": "paper", "html": "a web page"}
	var out []string
	for _, f := range c.Files {
		name := names[f.Format]
		if name == "" {
			name = strings.ToUpper(f.Format)
		}
		out = append(out, name)
	}
	if len(out) == 0 {
		return ""
	}
	return ", with " + manyWords(out)
}

func lastWords(d store.Delivery, when string) string {
	var parts []string
	for _, part := range []struct {
		n     int
		words string
	}{{d.Sent, "sent"}, {d.Waiting, "on the way"}, {d.Failed, "not taken"}} {
		if part.n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", part.n, part.words))
		}
	}
	if len(parts) == 0 {
		return "nothing to send " + when
	}
	return strings.Join(parts, ", ") + " " + when
}

// checked are terms as they are kept, with the view and with the addresses of people turned into their
// names; or the problem with them.
func (s *deliveries) checked(
	ctx context.Context, key string, t *DeliveryTerms, before store.Delivery,
) (out store.DeliveryTerms, v store.View, err error) {
	bad := func(err error, at string) error {
		return huma.Error422UnprocessableEntity(
			sentence(err.Error()), &huma.ErrorDetail{Location: "body." + at, Message: err.Error()},
		)
	}
	terms, v, err := s.asked(ctx, key, t.When, t.Answers, t.Trigger)
	if err != nil {
		return out, v, err
	}
	if t.When != nil {
		t.When = &terms.Rule // it knows now when it began
	}
	if err := t.Content.Check(); err != nil {
		return out, v, bad(err, "content")
	}
	if err := s.byName(ctx, t); err != nil {
		return out, v, err
	}
	allowed, err := s.Outside(ctx)
	if err != nil {
		return out, v, s.failed(ctx, "delivery", err)
	}
	if t.Addresses, err = deliver.Addresses(t.Addresses, allowed); err != nil {
		return out, v, bad(err, "addresses")
	}
	if t.Hook != "" {
		if err := deliver.CheckHook(t.Hook, s.PrivateHooks); err != nil {
			return out, v, bad(err, "hook")
		}
		if out.HookSecret = before.HookSecret; before.Hook != t.Hook || out.HookSecret == "" {
			out.HookSecret = deliver.NewHookSecret()
		}
	}
	if err := s.reaches(ctx, key, t); err != nil {
		return out, v, err
	}
	out.Addresses, out.Hook = t.Addresses, t.Hook
	if out.Rule, out.Answers, out.Trigger, err = keptTerms(terms); err == nil {
		out.Content, err = stored(t.Content)
	}
	if t.When == nil {
		out.Rule = nil
	}
	if err != nil {
		return out, v, s.failed(ctx, "delivery", err)
	}
	return out, v, nil
}

// byName turns addresses of people who can sign in into these people: they get what they may see.
func (s *deliveries) byName(ctx context.Context, t *DeliveryTerms) error {
	var outside []string
	for _, address := range t.Addresses {
		p, err := s.Store.PersonByEmail(ctx, strings.TrimSpace(address))
		switch {
		case errors.Is(err, store.ErrNotFound):
			outside = append(outside, address)
		case err != nil:
			return s.failed(ctx, "delivery", err)
		case !slices.Contains(t.People, p.ID):
			t.People = append(t.People, p.ID)
		}
	}
	t.Addresses = outside
	return nil
}

// noMail is the problem that nothing can be mailed.
func noMail() error {
	return huma.Error422UnprocessableEntity(
		"No mail server is set up, so nothing can be mailed. Whoever runs Gavrik names one with --mail-server.",
	)
}

// reaches says whether a delivery goes to anybody, and to everybody it names.
func (s *deliveries) reaches(ctx context.Context, key string, t *DeliveryTerms) error {
	if !s.Mails() && (len(t.People)+len(t.Groups)+len(t.Addresses) > 0 || t.Hook == "") {
		return noMail()
	}
	reached, err := s.reached(ctx, key, t.People, t.Groups)
	if err != nil {
		return err
	}
	n := len(reached) + len(t.Addresses)
	switch {
	case n > deliver.MostLetters:
		return s.deliveryFailed(ctx, &store.TooManyError{Letters: n, Most: deliver.MostLetters})
	case n == 0 && t.Hook == "":
		return huma.Error422UnprocessableEntity(
			"It goes to nobody who may see the view. Choose people, and share the view with them.",
		)
	}
	return nil
}

// next is when a delivery comes next; nil for one that is sent once.
func (s *deliveries) next(rule *recurrence.Rule) *time.Time {
	if rule == nil {
		return nil
	}
	return s.Workspace.Next(*rule)
}

func (s *deliveries) add(ctx context.Context, in *addDeliveryInput) (*deliveryOutput, error) {
	terms := in.Body.DeliveryTerms
	kept, _, err := s.checked(ctx, in.Body.View, &terms, store.Delivery{})
	if err != nil {
		return nil, err
	}
	mine, err := s.Store.Deliveries(ctx, who(ctx).ID, false)
	if err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	if err := notMore(len(mine), "deliveries of yours"); err != nil {
		return nil, err
	}
	key, err := s.Store.AddDelivery(
		ctx, who(ctx).ID, in.Body.View, kept, terms.People, terms.Groups, s.Workspace.Now(), s.next(terms.When),
	)
	if err == nil && terms.When == nil {
		err = s.SendNow(ctx, key, 0)
	}
	if err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	return s.one(ctx, in.caller, "made", key)
}

// one is a delivery that was just changed; the trail is told what was done.
func (s *deliveries) one(ctx context.Context, from caller, done, key string) (*deliveryOutput, error) {
	d, err := s.own(ctx, key)
	if err != nil {
		return nil, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	told, err := s.told(ctx, g, d)
	if err == nil && done != "" {
		s.noted(ctx, from, store.Delivering, fmt.Sprintf("%s: “%s” %s", done, d.ViewName, told.Words))
	}
	return &deliveryOutput{told}, err
}

func (s *deliveries) set(ctx context.Context, in *setDeliveryInput) (*deliveryOutput, error) {
	d, err := s.own(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	kept, _, err := s.checked(ctx, d.View, &in.Body, d)
	if err != nil {
		return nil, err
	}
	err = s.Store.SetDelivery(ctx, in.Key, kept, in.Body.People, in.Body.Groups, s.next(in.Body.When))
	if err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	return s.one(ctx, in.caller, "changed", in.Key)
}

func (s *deliveries) end(ctx context.Context, in *ofDelivery) (*struct{}, error) {
	d, err := s.own(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if err := s.Store.EndDelivery(ctx, in.Key); err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	s.noted(ctx, in.caller, store.Delivering, fmt.Sprintf("ended: “%s” of %s", d.ViewName, d.OwnerName))
	return nil, nil
}

func (s *deliveries) pause(ctx context.Context, in *pauseInput) (*deliveryOutput, error) {
	d, err := s.own(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if in.Body.Paused {
		if err = s.Store.PauseDelivery(ctx, in.Key, "", s.Workspace.Now()); errors.Is(err, store.ErrNotFound) {
			err = nil // it is already
		}
	} else {
		_, rule, _, wrong := deliver.TermsOf(d)
		if err = wrong; err == nil {
			err = s.Store.ResumeDelivery(ctx, in.Key, s.next(rule))
		}
	}
	if err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	return s.one(ctx, caller{}, "", in.Key)
}

func (s *deliveries) hand(ctx context.Context, in *handDeliveryInput) (*struct{}, error) {
	d, err := s.own(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	err = s.Store.HandDelivery(ctx, in.Key, in.Body.To)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error422UnprocessableEntity(
			"They may not see its view, are a reader, or have left. Share the view with them first.",
		)
	}
	if err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	s.noted(ctx, in.caller, store.HandedOver, fmt.Sprintf("delivery of “%s” to number %d", d.ViewName, in.Body.To))
	return nil, nil
}

func (s *deliveries) letSensitive(ctx context.Context, in *letSensitiveInput) (*deliveryOutput, error) {
	if err := s.Store.AllowSensitive(ctx, in.Key, in.Body.Allowed); err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	done := "sensitive fields may leave"
	if !in.Body.Allowed {
		done = "sensitive fields may not leave any more"
	}
	return s.one(ctx, in.caller, done, in.Key)
}

func (s *deliveries) send(ctx context.Context, in *sendInput) (*deliveryOutput, error) {
	d, err := s.own(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if !s.Mails() && (!in.Body.All || d.Hook == "") {
		return nil, noMail()
	}
	only := who(ctx).ID
	if in.Body.All {
		only = 0
	}
	if err := s.SendNow(ctx, in.Key, only); err != nil {
		return nil, s.deliveryFailed(ctx, err)
	}
	return s.one(ctx, caller{}, "", in.Key)
}

func (s *deliveries) preview(ctx context.Context, in *addDeliveryInput) (*previewLetterOutput, error) {
	terms := in.Body.DeliveryTerms
	kept, v, err := s.checked(ctx, in.Body.View, &terms, store.Delivery{})
	if err != nil {
		return nil, err
	}
	letter, found, err := s.Preview(ctx, store.Delivery{
		OwnerID: who(ctx).ID, OwnerName: who(ctx).Name, View: v.Key, ViewName: v.Name, Kind: v.Kind, Document: v.Document, DeliveryTerms: kept,
	}, who(ctx))
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(s.saidOf(ctx, err))
	}
	out := &previewLetterOutput{}
	b := &out.Body
	b.Subject, b.HTML, b.Text, b.Met, b.Found = letter.Subject, letter.HTML, letter.Text, found.Met, found.Words
	b.Files = []string{}
	for _, f := range letter.Files {
		b.Files = append(b.Files, fmt.Sprintf("%s, %s", f.Name, sizeWords(int64(len(f.Content)))))
	}
	return out, nil
}

func sizeWords(bytes int64) string {
	switch {
	case bytes >= 1<<20:
		return fmt.Sprintf("%.1f MB", float64(bytes)/(1<<20))
	case bytes >= 1<<10:
		return fmt.Sprintf("%d kB", bytes>>10)
	}
	return fmt.Sprintf("%d bytes", bytes)
}

// lettersShown is how many letters are told.
const lettersShown = 500

func (s *deliveries) letters(ctx context.Context, in *ofDelivery) (*lettersOutput, error) {
	if _, err := s.own(ctx, in.Key); err != nil {
		return nil, err
	}
	list, err := s.Store.Letters(ctx, in.Key, lettersShown)
	if err != nil {
		return nil, s.failed(ctx, "letters", err)
	}
	out := &lettersOutput{}
	out.Body.Letters = make([]SentLetter, len(list))
	for i, l := range list {
		out.Body.Letters[i] = SentLetter{
			ID: l.ID, Run: l.Run, Of: string(l.Of), To: l.Name, Address: l.Address, At: l.At, State: string(l.State),
			Words: letterWords(l), Bytes: l.Bytes, Records: l.Records, Tries: l.Tries,
		}
	}
	return out, nil
}

// letterWords say what became of a letter.
func letterWords(l store.Letter) string {
	tried := ""
	if l.Tries > 1 {
		tried = fmt.Sprintf(", at try %d", l.Tries)
	}
	switch l.State {
	case store.LetterSent:
		return "sent, " + sizeWords(l.Bytes) + tried
	case store.LetterIdle:
		return "not sent: " + l.Why
	case store.LetterKept:
		return "kept back: " + l.Why
	case store.LetterFailed:
		return "not taken: " + l.Why
	}
	if l.Why != "" {
		return "tried " + plural(l.Tries, "time") + ", and tried again: " + l.Why
	}
	return "on the way"
}

func plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}

func (s *deliveries) retry(ctx context.Context, in *retryInput) (*struct{}, error) {
	if _, err := s.own(ctx, in.Key); err != nil {
		return nil, err
	}
	return nil, s.deliveryFailed(ctx, s.Retry(ctx, in.Key, in.Letter))
}

func (s *deliveries) allowOutside(ctx context.Context, in *outsideInput) (*struct{}, error) {
	allowed, err := deliver.ReadOutside(in.Body.Outside)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
	}
	if err := s.Store.AllowOutside(ctx, allowed.String()); err != nil {
		return nil, s.failed(ctx, "outside", err)
	}
	words := allowed.String()
	if words == "" {
		words = "nowhere"
	}
	s.noted(ctx, in.caller, store.Permission, "letters may go outside to "+words)
	return nil, nil
}
