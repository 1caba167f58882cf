package command

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"

	"github.com/google/uuid"
)

// NewKey is a key for a command that nobody else will use.
func NewKey() string { return uuid.NewString() }

// OwnKey is the key of a command of the server's own: the same for the same text, so that it is done once whichever server hears of it
// first, and one that nobody outside can guess.
func (d *Runner) OwnKey(ctx context.Context, text string) (string, error) {
	secret, err := d.Store.Read(ctx).ServerSecret()
	if err != nil {
		return "", err
	}
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write([]byte(text))
	var id uuid.UUID
	copy(id[:], mac.Sum(nil))
	id[6] = id[6]&0x0f | 0x80 // version 8 of RFC 9562: made by an algorithm of ours
	id[8] = id[8]&0x3f | 0x80
	return id.String(), nil
}
