package command

import (
	"context"
	"errors"
	"time"

	"journeyman/internal/store"
)

// Progress reports how far a long command is, a few times a second at most.
type Progress struct {
	d     *Runner
	ctx   context.Context
	key   string
	step  string
	total int
	last  time.Time
}

// NewProgress is the progress of the command of that key, of which nothing is said until Begin.
func (d *Runner) NewProgress(ctx context.Context, key string) *Progress {
	return &Progress{d: d, ctx: ctx, key: key}
}

// Begin says which step is begun, and of how many rows; 0 if that is not known.
func (p *Progress) Begin(step string, total int) {
	p.step, p.total, p.last = step, total, time.Time{}
	p.At(0)
}

// At says how many rows of the step are done.
func (p *Progress) At(done int) {
	if time.Since(p.last) < 100*time.Millisecond {
		return
	}
	p.last = time.Now()
	err := p.d.Store.SetProgress(p.ctx, store.Progress{Key: p.key, Step: p.step, Done: int64(done), Total: int64(p.total)})
	if err != nil && p.ctx.Err() == nil && !errors.Is(err, context.DeadlineExceeded) {
		p.d.Log.Warn("progress could not be told", "error", err)
	}
}

// End takes back what was said. Call it when the command has ended.
func (p *Progress) End() {
	if p.step == "" {
		return // nothing was told
	}
	if err := p.d.Store.EndProgress(context.WithoutCancel(p.ctx), p.key); err != nil {
		p.d.Log.Warn("progress could not be ended", "error", err)
	}
}
