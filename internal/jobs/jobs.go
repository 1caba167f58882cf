// Package jobs works the job queue: what commands have asked for outside the house, and what happens by the clock. The queue is in the
// database, so a job outlives the server that was to do it, and several servers share the work.
package jobs

import (
	"context"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/rooms"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

const (
	newsEvery  = 5 * time.Second  // how often the carrier is asked for news
	sweepEvery = 10 * time.Minute // how often what has ended is deleted
	sumEvery   = 15 * time.Second // how often sums are put together

	jobWithin   = 20 * time.Second // how long a job may take; one that was begun by a server that is gone is begun again a while after
	rescueAfter = 30 * time.Second
	mostTries   = 60 // of asking a carrier, about an hour
	mostBetween = time.Minute
)

// Queue works jobs until it is stopped.
type Queue struct{ client *river.Client[pgx.Tx] }

// Start works the jobs of the rooms' database.
func Start(ctx context.Context, r *rooms.Rooms, log *slog.Logger) (*Queue, error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, &bookWorker{dock: r.Dock})
	river.AddWorker(workers, &printWorker{floor: r.Floor})
	river.AddWorker(workers, &newsWorker{rooms: r})
	river.AddWorker(workers, &sweepWorker{store: r.Store})
	river.AddWorker(workers, &sumWorker{store: r.Store})
	c, err := river.NewClient(riverpgxv5.New(r.Store.Jobs), &river.Config{
		Schema: postgres.JobSchema, Workers: workers, Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 8}},
		Logger: slog.New(onlyTrouble{log.Handler()}), ErrorHandler: loggedElsewhere{},
		JobTimeout: jobWithin, RescueStuckJobsAfter: rescueAfter, MaxAttempts: mostTries, RetryPolicy: backOff{},
		CompletedJobRetentionPeriod: 10 * time.Minute, ReindexerSchedule: river.NeverSchedule(), // the tables belong to the owner
		PeriodicJobs: []*river.PeriodicJob{
			every(newsEvery, CarrierNews{}), every(sweepEvery, Sweep{}), every(sumEvery, SumUp{}),
		},
	})
	if err != nil {
		return nil, err
	}
	if err := askAgain(ctx, c, r.Store); err != nil {
		return nil, err
	}
	return &Queue{c}, c.Start(ctx)
}

// askAgain has every carrier that has not answered asked at once: the server that was at it may be gone, and the queue would find that out
// only after a while. To ask twice is harmless.
func askAgain(ctx context.Context, c *river.Client[pgx.Tx], s *store.Store) error {
	waiting, err := s.Read(ctx).ShipmentsAsked()
	for _, x := range waiting {
		if _, err := c.Insert(ctx, dock.BookShipment{Shipment: x.ID, Asked: *x.AskedBy}, nil); err != nil {
			return err
		}
	}
	return err
}

type printWorker struct {
	river.WorkerDefaults[floor.PrintDocument]
	floor *floor.Desk
}

// Timeout is longer than usual: a document may have hundreds of pages.
func (w *printWorker) Timeout(*river.Job[floor.PrintDocument]) time.Duration { return 5 * time.Minute }

func (w *printWorker) Work(ctx context.Context, job *river.Job[floor.PrintDocument]) error {
	return w.floor.Put(ctx, job.Args)
}

// Stop lets the jobs that are under way end, for as long as ctx allows. What is not done is done by another server, or later.
func (q *Queue) Stop(ctx context.Context) error { return q.client.StopAndCancel(ctx) }

// every has a job done by whichever server leads, and not again while it is under way.
func every(d time.Duration, args river.JobArgs) *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(d), func() (river.JobArgs, *river.InsertOpts) {
		return args, &river.InsertOpts{MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByState: []rivertype.JobState{
			rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRunning, rivertype.JobStateRetryable,
			rivertype.JobStateScheduled,
		}}}
	}, nil)
}

// backOff waits a second after the first failure, and twice as long after each that follows, up to a minute.
type backOff struct{}

func (backOff) NextRetry(job *rivertype.JobRow) time.Time {
	return time.Now().Add(min(time.Second<<min(max(0, job.Attempt-1), 10), mostBetween))
}

type bookWorker struct {
	river.WorkerDefaults[dock.BookShipment]
	dock *dock.Desk
}

func (w *bookWorker) Work(ctx context.Context, job *river.Job[dock.BookShipment]) error {
	return w.dock.Book(ctx, job.Args, job.Attempt >= job.MaxAttempts)
}

// CarrierNews is the job that asks the carrier what has become of shipments under way.
type CarrierNews struct{}

// Kind names the job in the queue.
func (CarrierNews) Kind() string { return "carrier_news" }

type newsWorker struct {
	river.WorkerDefaults[CarrierNews]
	rooms *rooms.Rooms
}

func (w *newsWorker) Work(ctx context.Context, _ *river.Job[CarrierNews]) error {
	who, err := w.rooms.Admin.CarrierActor(ctx)
	if err == nil {
		_, err = w.rooms.Dock.CarrierNews(ctx, who)
	}
	if err != nil && ctx.Err() == nil {
		w.rooms.Log.Warn("carrier news", "error", err)
	}
	return nil // it is asked again soon
}

// Sweep is the job that deletes what has ended: sessions, what was tried in vain, imports that nobody applied.
type Sweep struct{}

// Kind names the job in the queue.
func (Sweep) Kind() string { return "sweep" }

type sweepWorker struct {
	river.WorkerDefaults[Sweep]
	store *store.Store
}

func (w *sweepWorker) Work(ctx context.Context, _ *river.Job[Sweep]) error { return w.store.Sweep(ctx) }

// SumUp is the job that puts together the sums that commands have added to.
type SumUp struct{}

// Kind names the job in the queue.
func (SumUp) Kind() string { return "sum_up" }

type sumWorker struct {
	river.WorkerDefaults[SumUp]
	store *store.Store
}

func (w *sumWorker) Work(ctx context.Context, _ *river.Job[SumUp]) error {
	return w.store.CompactCounts(ctx)
}

// loggedElsewhere: what goes wrong with a job is written by who does it, once.
type loggedElsewhere struct{}

func (loggedElsewhere) HandleError(context.Context, *rivertype.JobRow, error) *river.ErrorHandlerResult {
	return nil
}

func (loggedElsewhere) HandlePanic(ctx context.Context, job *rivertype.JobRow, p any, trace string) *river.ErrorHandlerResult {
	slog.ErrorContext(ctx, "a job panicked", "kind", job.Kind, "panic", p, "trace", trace)
	return nil
}

// onlyTrouble passes on what the queue says of itself if it is more than a warning: its warnings are of connections that come back.
type onlyTrouble struct{ slog.Handler }

func (h onlyTrouble) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelError && h.Handler.Enabled(ctx, l)
}

func (h onlyTrouble) WithAttrs(as []slog.Attr) slog.Handler {
	return onlyTrouble{h.Handler.WithAttrs(as)}
}

func (h onlyTrouble) WithGroup(name string) slog.Handler {
	return onlyTrouble{h.Handler.WithGroup(name)}
}
