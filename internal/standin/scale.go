package standin

import "context"

// Scale is a scale on which a package weighs what it should, but for some grams of tape and paper: a five-hundredth more, and 15 grams.
type Scale struct{}

// Weigh returns what stands on it, in grams.
func (Scale) Weigh(_ context.Context, should int64) (int64, error) {
	return should + should/500 + 15, nil
}
