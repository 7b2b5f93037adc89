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
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, hashMemory, hashTime, hashLanes, b64(salt), b64(key))
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

// Limits on failed sign-ins.
const (
	failureWindow  = 15 * time.Minute
	failuresPerKey = 10
	// Many people may sit behind one address.
	failuresPerAddress = 50
)

// Errors of a sign-in. They do not say whether the e-mail address is known.
var (
	ErrWrong   = errors.New("the e-mail address or the password is not right")
	ErrTooMany = errors.New("too many failed attempts; wait a quarter of an hour and try again")
)

// Desk signs people in. Any goroutine may use it.
type Desk struct {
	store *store.Store
	// decoy is compared with when an address is unknown, so that the answer takes
	// as long as for a known one.
	decoy string
	// hashing bounds the memory that hashing takes at once.
	hashing chan struct{}
}

// NewDesk returns a desk over a store.
func NewDesk(s *store.Store) *Desk {
	return &Desk{store: s, decoy: Hash(rand.Text()), hashing: make(chan struct{}, 4)}
}

// SignIn checks a password; address is where the attempt comes from.
func (d *Desk) SignIn(ctx context.Context, email, password, address string) (store.Person, error) {
	keys := map[string]int{"person " + strings.ToLower(email): failuresPerKey, "address " + address: failuresPerAddress}
	for key, most := range keys {
		n, err := d.store.Failures(ctx, key, failureWindow)
		if err != nil {
			return store.Person{}, err
		}
		if n >= most {
			return store.Person{}, ErrTooMany
		}
	}
	p, err := d.store.PersonByEmail(ctx, email)
	hash := p.PasswordHash
	if errors.Is(err, store.ErrNotFound) || err == nil && hash == "" {
		hash = d.decoy
	} else if err != nil {
		return store.Person{}, err
	}
	d.hashing <- struct{}{}
	right := matches(password, hash) && err == nil && p.LeftAt == nil
	<-d.hashing
	if right {
		return p, d.store.ClearFailures(ctx, "person "+strings.ToLower(email))
	}
	for key := range keys {
		if err := d.store.AddFailure(ctx, key, failureWindow); err != nil {
			return store.Person{}, err
		}
	}
	return store.Person{}, ErrWrong
}

// hash is Hash within the bound on how many are made at once.
func (d *Desk) hash(password string) string {
	d.hashing <- struct{}{}
	defer func() { <-d.hashing }()
	return Hash(password)
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
		hash = d.hash(password)
	}
	id, err := d.store.AddPerson(ctx, store.Person{Email: email, Name: strings.TrimSpace(name), Role: role, PasswordHash: hash})
	if errors.Is(err, store.ErrTaken) {
		return 0, &NotTakenError{"email", fmt.Sprintf("somebody with the e-mail address %s can sign in already", email)}
	}
	return id, err
}

// SetPassword gives somebody a new password, as when she has forgotten hers; all of her
// sessions end. The error may be a WeakError.
func (d *Desk) SetPassword(ctx context.Context, id int64, fresh string) error {
	if err := fits(fresh); err != nil {
		return &WeakError{err}
	}
	return d.store.SetPassword(ctx, id, d.hash(fresh))
}

// fits says what is wrong with a password.
func fits(password string) error {
	if len(password) < MinPassword {
		return fmt.Errorf("the password is too short; use at least %d characters", MinPassword)
	}
	return nil
}

// WeakError says why a new password is not taken.
type WeakError struct{ reason error }

func (e *WeakError) Error() string { return e.reason.Error() }

// ChangePassword replaces a person's password, once she has given the one she has; wrong
// ones count as failed sign-ins. All of her sessions end. The error is ErrWrong,
// ErrTooMany or a WeakError.
func (d *Desk) ChangePassword(ctx context.Context, p store.Person, old, fresh, address string) error {
	if err := fits(fresh); err != nil {
		return &WeakError{err}
	}
	if _, err := d.SignIn(ctx, p.Email, old, address); err != nil {
		return err
	}
	return d.SetPassword(ctx, p.ID, fresh)
}
