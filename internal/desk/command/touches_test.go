package command

import (
	"slices"
	"testing"
)

// Of every command it is known what it changes; those of which anything may follow say nothing on purpose.
func TestEveryVerbSaysWhatItChanges(t *testing.T) {
	t.Parallel()
	anything := []Verb{VerbImport, VerbUndo, VerbSettings, VerbStop}
	for _, v := range append(slices.Clone(own), func() (all []Verb) {
		for v := range who {
			all = append(all, v)
		}
		return all
	}()...) {
		if none := len(v.Touches()) == 0; none != slices.Contains(anything, v) {
			t.Errorf("%q changes %v", v, v.Touches())
		}
	}
}
