package desk

import "github.com/google/uuid"

// space is the namespace of keys that are made from what they stand for (RFC 9562, version 5).
var space = uuid.MustParse("6f0f2a52-6d0e-4f54-9c1e-6a6f75726e65")

// NewKey is a key for a command that nobody else will use.
func NewKey() string { return uuid.NewString() }

func newsKey(tracking string) string { return KeyOf("delivered " + tracking) }

// KeyOf is the same key for the same text, so that a command named by it is done once.
func KeyOf(text string) string { return uuid.NewSHA1(space, []byte(text)).String() }
