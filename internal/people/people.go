// Package people signs people in and says what they may do.
package people

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"

	"gavrik/internal/store"
)

// argon2id parameters, the second recommended choice of RFC 9106, section 4:
// 64 MiB of memory, 3 passes, 4 lanes.
const (
	hashTime    = 3
	hashMemory  = 64 << 10 // KiB
	hashLanes   = 4
	hashBytes   = 32
	saltBytes   = 16
	MinPassword = 10
)

// Hash makes the text that is stored for a password, in the PHC string format.
func Hash(password string) string {
	salt := make([]byte, saltBytes)
	_, _ = rand.Read(salt) // never fails
	key := argon2.IDKey([]byte(password), salt, hashTime, hashMemory, hashLanes, hashBytes)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf(
		"$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, hashMemory, hashTime, hashLanes, b64(salt), b64(key),
	)
}

// matches compares a password with a stored hash.
func matches(password, hash string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 {
		return false
	}
	var memory, passes uint32
	var lanes uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &lanes); err != nil {
		return false
	}
	salt, errS := base64.RawStdEncoding.DecodeString(parts[4])
	want, errW := base64.RawStdEncoding.DecodeString(parts[5])
	if errS != nil || errW != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, passes, memory, lanes, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}

// Bounds on tries to sign in. A try counts before its password is looked at, so that many
// side by side are no more than many one after another.
const (
	// freeTries are those of one account from one address, or from one device, without a
	// pause; from then on the pause doubles from a second up to tryWindow.
	freeTries = 5
	tryWindow = 15 * time.Minute
	// accountTries are those of one account from wherever, known devices left out (OWASP
	// ASVS 4, 2.2.1: no more than 100 an hour).
	accountTries  = 100
	accountWindow = time.Hour
	// Many people may sit behind one address.
	addressTries = 50
)

// ErrWrong says that a sign-in did not fit. It does not say whether the e-mail address is
// known.
var ErrWrong = errors.New("the e-mail address or the password is not right")

// TooManyError says that there were too many tries, and when the next is let through.
type TooManyError struct{ Wait time.Duration }

func (e *TooManyError) Error() string {
	if e.Wait > time.Minute {
		return fmt.Sprintf("too many failed attempts; wait %d minutes and try again", int(e.Wait.Minutes()+0.999))
	}
	return fmt.Sprintf(
		"too many failed attempts; wait %d seconds and try again", int(max(1, e.Wait.Seconds()+0.999)),
	)
}

// Desk signs people in. Any goroutine may use it.
type Desk struct {
	store *store.Store
	// decoy is compared with when an address is unknown, so that the answer takes
	// as long as for a known one.
	decoy   string
	hashing *hashing
}

// NewDesk returns a desk over a store.
func NewDesk(s *store.Store) *Desk {
	return &Desk{store: s, decoy: Hash(rand.Text()), hashing: newHashing()}
}

// From is where somebody tries to sign in from.
type From struct {
	Address string
	// Device is the hash of what her browser was given at an earlier sign-in, or nil.
	Device []byte
}

// SignIn checks a password and, of whoever has a second factor, a code. The error is
// ErrWrong, ErrCodeWanted, a *TooManyError or ErrCrowded.
func (d *Desk) SignIn(ctx context.Context, email, password, code string, from From) (store.Person, error) {
	return d.check(ctx, email, password, from, func(p store.Person) error {
		if !p.SecondOn {
			return nil
		}
		if strings.TrimSpace(code) == "" {
			return ErrCodeWanted
		}
		if ok, err := d.takes(ctx, p, code); err != nil || !ok {
			return errors.Join(err, ErrWrong)
		}
		return nil
	})
}

// check compares a password, and asks for more once it is right.
func (d *Desk) check(
	ctx context.Context, email, password string, from From, more func(p store.Person) error,
) (store.Person, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	known := false
	if from.Device != nil {
		var err error
		if known, err = d.store.KnowsDevice(ctx, email, from.Device); err != nil {
			return store.Person{}, err
		}
	}
	tries := triesOf(email, from, known)
	wait, err := d.store.TryAttempts(ctx, tries)
	switch {
	case err != nil:
		return store.Person{}, err
	case wait > 0:
		return store.Person{}, &TooManyError{wait}
	}
	p, err := d.store.PersonByEmail(ctx, email)
	hash := p.PasswordHash
	if errors.Is(err, store.ErrNotFound) || err == nil && hash == "" {
		hash = d.decoy
	} else if err != nil {
		return store.Person{}, err
	}
	right := false
	if err := d.hashing.do(ctx, known, func() { right = matches(password, hash) }); err != nil {
		return store.Person{}, err
	}
	if !right || err != nil || p.LeftAt != nil {
		return store.Person{}, ErrWrong
	}
	if err := more(p); err != nil {
		return store.Person{}, err
	}
	// What others have tried stays counted; what she did wrong herself is forgiven.
	return p, d.store.ForgiveAttempts(ctx, tries)
}

// triesOf are the bounds that a try counts against, her own first. A known device has one
// of its own, so that guesses from elsewhere do not keep it out.
func triesOf(email string, from From, known bool) []store.Attempt {
	if known {
		return []store.Attempt{{Key: fmt.Sprintf("device %x", from.Device), Free: freeTries, Window: tryWindow}}
	}
	return []store.Attempt{
		{Key: "person " + email + " from " + from.Address, Free: freeTries, Window: tryWindow},
		{Key: "address " + from.Address, Free: addressTries, Window: tryWindow},
		{Key: "person " + email, Free: accountTries, Window: accountWindow},
	}
}

// hash is Hash within the bound on how many are made at once.
func (d *Desk) hash(ctx context.Context, password string) (hash string, err error) {
	err = d.hashing.do(ctx, true, func() { hash = Hash(password) })
	return hash, err
}

// NotTakenError says why somebody is not added.
type NotTakenError struct {
	// Field is "email", "name" or "password".
	Field  string
	reason string
}

func (e *NotTakenError) Error() string { return e.reason }

// Add makes a person who can sign in; without a password, only by way of an identity
// provider. The error may be a NotTakenError.
func (d *Desk) Add(ctx context.Context, email, name, password string, role store.Role) (int64, error) {
	return d.add(ctx, email, name, password, role, false)
}

// AddChanging is Add with a password that the person must change first of all, as
// somebody else has chosen it.
func (d *Desk) AddChanging(
	ctx context.Context, email, name, password string, role store.Role,
) (int64, error) {
	return d.add(ctx, email, name, password, role, true)
}

func (d *Desk) add(
	ctx context.Context, email, name, password string, role store.Role, changing bool,
) (int64, error) {
	at := strings.Index(email, "@")
	switch {
	case at < 1 || at == len(email)-1 || strings.ContainsAny(email, " \t\n<>"):
		return 0, &NotTakenError{"email", fmt.Sprintf("%q is not an e-mail address", email)}
	case strings.TrimSpace(name) == "":
		return 0, &NotTakenError{"name", "the person needs a name"}
	}
	hash := ""
	if password != "" {
		if err := fits(password); err != nil {
			return 0, &NotTakenError{"password", err.Error()}
		}
		var err error
		if hash, err = d.hash(ctx, password); err != nil {
			return 0, err
		}
	}
	id, err := d.store.AddPerson(ctx, store.Person{
		Email: email, Name: strings.TrimSpace(name), Role: role, PasswordHash: hash, Changing: changing,
	})
	if errors.Is(err, store.ErrTaken) {
		return 0, &NotTakenError{
			"email", fmt.Sprintf("somebody with the e-mail address %s can sign in already", email),
		}
	}
	return id, err
}

// SetPassword gives somebody a new password, as when she has forgotten hers, which she
// must change first of all; all of her sessions and tokens end. The error may be a
// WeakError.
func (d *Desk) SetPassword(ctx context.Context, id int64, fresh string) error {
	return d.setPassword(ctx, id, fresh, true, true)
}

func (d *Desk) setPassword(ctx context.Context, id int64, fresh string, changing, tokens bool) error {
	if err := fits(fresh); err != nil {
		return &WeakError{err}
	}
	hash, err := d.hash(ctx, fresh)
	if err != nil {
		return err
	}
	return d.store.SetPassword(ctx, id, hash, changing, tokens)
}

// fits says what is wrong with a password (OWASP ASVS 4, 2.1: length, and none of those
// that are tried first).
func fits(password string) error {
	if utf8.RuneCountInString(password) < MinPassword {
		return fmt.Errorf("the password is too short; use at least %d characters", MinPassword)
	}
	if common(password) {
		return errors.New(
			"this password is one of those that are tried first; choose another, such as a few words that nobody else would put together",
		)
	}
	return nil
}

// WeakError says why a new password is not taken.
type WeakError struct{ reason error }

func (e *WeakError) Error() string { return e.reason.Error() }

// ChangePassword replaces a person's password, once she has given the one she has; wrong
// ones count as tries to sign in. All of her sessions end; with tokens, her tokens too.
// The error is that of a sign-in, or a WeakError.
func (d *Desk) ChangePassword(
	ctx context.Context, p store.Person, old, fresh string, from From, tokens bool,
) error {
	if err := fits(fresh); err != nil {
		return &WeakError{err}
	}
	if old == fresh {
		return &WeakError{errors.New("this is the password you have; choose another")}
	}
	if _, err := d.check(ctx, p.Email, old, from, func(store.Person) error { return nil }); err != nil {
		return err
	}
	return d.setPassword(ctx, p.ID, fresh, false, tokens)
}
