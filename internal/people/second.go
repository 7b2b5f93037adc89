package people

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"image/png"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"gavrik/internal/store"
)

// Errors about the second factor.
var (
	// ErrCodeWanted says that the password is right and a code is needed, too.
	ErrCodeWanted = errors.New("type the code that your app shows, too")
	// ErrSecondRequired says that it cannot be turned off.
	ErrSecondRequired = errors.New(
		"everybody who signs in with a password needs a second factor here; an administrator has settled that",
	)
)

// The codes are those of RFC 6238 with its defaults: SHA-1, six digits, a new one every
// 30 seconds. One step early or late is let pass, for clocks that differ.
const (
	stepSeconds = 30
	spareCodes  = 10
)

// Enrolment is what an app needs to make somebody's codes.
type Enrolment struct {
	// Secret is to be typed where the picture cannot be taken; Address is the same for a
	// click on the phone itself.
	Secret, Address string
	// Picture is a QR code of the address, as a data URL.
	Picture string
}

// Enrol begins to set up a second factor; nothing changes before Confirm. ErrTaken says
// that there is one already.
func (d *Desk) Enrol(ctx context.Context, p store.Person) (Enrolment, error) {
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Gavrik", AccountName: p.Email})
	if err != nil {
		return Enrolment{}, fmt.Errorf("people: %w", err)
	}
	picture, err := key.Image(220, 220)
	if err != nil {
		return Enrolment{}, fmt.Errorf("people: %w", err)
	}
	var b bytes.Buffer
	if err := png.Encode(&b, picture); err != nil {
		return Enrolment{}, fmt.Errorf("people: %w", err)
	}
	if err := d.store.SetSecond(ctx, p.ID, key.Secret()); err != nil {
		return Enrolment{}, err
	}
	return Enrolment{
		key.Secret(), key.URL(), "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes()),
	}, nil
}

// Confirm turns the second factor on once the app's code was typed, and returns spare
// codes, which are shown this once.
func (d *Desk) Confirm(ctx context.Context, p store.Person, code string) ([]string, error) {
	if p.SecondOn || p.SecondSecret == "" {
		return nil, store.ErrTaken
	}
	if ok, err := d.takes(ctx, p, code); err != nil || !ok {
		return nil, errors.Join(err, ErrWrong)
	}
	spare, hashes := make([]string, spareCodes), make([][]byte, spareCodes)
	for i := range spare {
		text := strings.ToLower(rand.Text())
		spare[i] = text[:5] + "-" + text[5:10]
		hashes[i] = spareHash(spare[i])
	}
	return spare, d.store.TurnSecondOn(ctx, p.ID, hashes)
}

// TurnOff asks for no codes any more, once one was typed. ErrSecondRequired says that it
// may not be.
func (d *Desk) TurnOff(ctx context.Context, p store.Person, code string) error {
	required, err := d.store.SecondRequired(ctx)
	if err != nil {
		return err
	}
	if required {
		return ErrSecondRequired
	}
	if ok, err := d.takes(ctx, p, code); err != nil || !ok {
		return errors.Join(err, ErrWrong)
	}
	return d.store.TurnSecondOff(ctx, p.ID)
}

// takes says whether a code is one of the app's just now, or a spare one; either is taken
// once.
func (d *Desk) takes(ctx context.Context, p store.Person, code string) (bool, error) {
	code = strings.ToLower(strings.Map(func(r rune) rune {
		if r == ' ' {
			return -1
		}
		return r
	}, code))
	if len(code) != 6 {
		return d.store.TakeSpare(ctx, p.ID, spareHash(code))
	}
	now := time.Now().Unix() / stepSeconds
	for _, step := range []int64{now, now - 1, now + 1} {
		want, err := totp.GenerateCodeCustom(p.SecondSecret, time.Unix(step*stepSeconds, 0), totp.ValidateOpts{
			Period: stepSeconds, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1,
		})
		if err != nil {
			return false, fmt.Errorf("people: %w", err)
		}
		if want == code {
			return d.store.TakeStep(ctx, p.ID, step)
		}
	}
	return false, nil
}

func spareHash(code string) []byte {
	sum := sha256.Sum256([]byte(code))
	return sum[:]
}
