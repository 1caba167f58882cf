package admin

import (
	"crypto/rand"
	"crypto/subtle"
	_ "embed"
	"encoding/base64"
	"fmt"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"
	"golang.org/x/crypto/bcrypt"

	"journeyman/internal/desk/command"
)

// Passwords are hashed in full by Argon2id (RFC 9106) with the memory and passes that OWASP's Password Storage Cheat Sheet gives as its
// first choice. Those that were hashed by bcrypt before are hashed again when they are next used.

const (
	leastPassword, mostPassword = 8, 128 // characters

	argonMemory, argonPasses = 19 << 10, 2 // KiB, passes
	argonSalt, argonKey      = 16, 32      // bytes
)

// common are passwords that are tried first, one a line.
//
//go:embed passwords.txt
var common string

var commonPasswords = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for p := range strings.Lines(common) {
		out[strings.TrimSpace(p)] = true
	}
	return out
})

// goodPassword refuses a password that is too short, too long, or among the first that anybody tries.
func goodPassword(password, login, name string) error {
	n := utf8.RuneCountInString(password)
	low := strings.ToLower(password)
	switch {
	case n < leastPassword || n > mostPassword:
		return command.Invalid("The password must have %d to %d characters.", leastPassword, mostPassword)
	case commonPasswords()[low]:
		return command.Invalid("That password is among the first that anybody tries. Choose another.")
	case login != "" && strings.Contains(low, strings.ToLower(login)) && n < 2*len(login)+4,
		slices.ContainsFunc(strings.Fields(strings.ToLower(name)), func(part string) bool { return low == part }):
		return command.Invalid("That password is the person's own name, or little more. Choose another.")
	case strings.Count(password, password[:1]) == len(password):
		return command.Invalid("That password is one character again and again. Choose another.")
	}
	return nil
}

// hashing bounds how many passwords are hashed at once: each takes 19 MB.
var hashing = make(chan struct{}, 4)

func argon(password string, salt []byte, memory, passes uint32) []byte {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	return argon2.IDKey([]byte(password), salt, passes, memory, 1, argonKey)
}

// hashOf is the password as it is kept, in the usual form of its parameters, salt and hash.
func (d *Desk) hashOf(password string) (string, error) {
	salt := make([]byte, argonSalt)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	memory, passes := uint32(argonMemory), uint32(argonPasses)
	if d.weakHash {
		memory, passes = 64, 1
	}
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=1$%s$%s", argon2.Version, memory, passes, b64.EncodeToString(salt),
		b64.EncodeToString(argon(password, salt, memory, passes))), nil
}

// matches says whether the password is that of the hash, and whether it is to be hashed again.
func matches(hash, password string) (ok, old bool) {
	if strings.HasPrefix(hash, "$2") {
		// bcrypt reads 72 bytes and no more.
		return len(password) <= 72 && bcrypt.CompareHashAndPassword([]byte(hash), []byte(password)) == nil, true
	}
	var version int
	var memory, passes uint32
	parts := strings.Split(hash, "$")
	if len(parts) != 6 {
		return false, false
	}
	if _, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=1", &version, &memory, &passes); err != nil ||
		version != argon2.Version || memory > 1<<20 || passes > 10 {
		return false, false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false, false
	}
	return subtle.ConstantTimeCompare(argon(password, salt, memory, passes), want) == 1, false
}
