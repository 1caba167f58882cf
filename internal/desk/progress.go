package desk

import (
	"context"
	"errors"
	"journeyman/internal/store"
	"time"
)

// progress reports how far a long command is, a few times a second at most.
type progress struct {
	d     *Runner
	ctx   context.Context
	key   string
	step  string
	total int
	last  time.Time
}

func (d *Runner) progress(ctx context.Context, key string) *progress {
	return &progress{d: d, ctx: ctx, key: key}
}

func (p *progress) begin(step string, total int) {
	p.step, p.total, p.last = step, total, time.Time{}
	p.at(0)
}

func (p *progress) at(done int) {
	if time.Since(p.last) < 100*time.Millisecond {
		return
	}
	p.last = time.Now()
	err := p.d.Store.SetProgress(p.ctx, store.Progress{Key: p.key, Step: p.step, Done: int64(done), Total: int64(p.total)})
	if err != nil && p.ctx.Err() == nil && !errors.Is(err, context.DeadlineExceeded) {
		p.d.Log.Warn("progress could not be told", "error", err)
	}
}

func (p *progress) end() {
	if p.step == "" {
		return // nothing was told
	}
	if err := p.d.Store.EndProgress(context.WithoutCancel(p.ctx), p.key); err != nil {
		p.d.Log.Warn("progress could not be ended", "error", err)
	}
}
