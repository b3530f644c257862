// Package app puts the use cases together. It is the only struct that holds all of them.
package app

import (
	"context"
	"log/slog"
	"time"

	"jollydrawer/core/lookup"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/auth"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/audit"
	"jollydrawer/internal/service/boms"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/comments"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/deliveries"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/fitting"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/notices"
	"jollydrawer/internal/service/offers"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/people"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/readout"
	"jollydrawer/internal/service/reform"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/service/wants"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/service/worklist"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
)

// App is the service without its doors: one field for each thing a person works with.
type App struct {
	*deed.Desk
	Index *lookup.Index

	Work       *work.Work
	People     *people.People
	Files      *files.Files
	Cabinets   *cabinets.Cabinets
	Policy     *policy.Policy
	Models     *models.Models
	Parts      *parts.Parts
	Finder     *finder.Finder
	Lifecycles *lifecycles.Lifecycles
	Fitting    *fitting.Fitting
	Intakes    *intakes.Intakes
	Series     *series.Series
	Deliveries *deliveries.Deliveries
	Reform     *reform.Reform
	Offers     *offers.Offers
	BOMs       *boms.BOMs
	Wants      *wants.Wants
	Worklist   *worklist.Worklist
	Readout    *readout.Readout
	Notices    *notices.Notices
	Comments   *comments.Comments
	Audit      *audit.Audit
}

// Prepare fills what an earlier version of the program did not write yet. It is called before anything is served; several
// instances may call it at once.
func (a *App) Prepare(ctx context.Context) error {
	if err := a.Readout.Prepare(ctx); err != nil {
		return err
	}
	if err := a.Notices.Begin(ctx); err != nil {
		return err
	}
	return a.BOMs.Fill(ctx)
}

// Options are what an installation decides.
type Options struct {
	Limits rows.Limits   // for files from outside
	Lease  time.Duration // how long an instance that died keeps a job
	Guard  reach.Guard   // what the service may ask of other machines
	Log    *slog.Logger

	Keeper *store.Keeper // makes the tables that design tools read; nil keeps none
	Reader string        // whom design tools sign in as, and where
	Base   string        // of addresses that others follow: https://parts.example
	Mail   notices.Mail  // how mail is sent
	Key    []byte        // of the installation: keys that sign come from it

	Night   offers.Hour      // of the day (UTC) at which suppliers are asked by themselves; blank: never
	Secrets supplier.Secrets // by which suppliers know who asks; nil: none

	Passwords auth.Cost // of those that are set from now on; zero: auth.Usual
}

// New puts the use cases together over a store and an index.
func New(s *store.Store, x *lookup.Index, o Options) *App {
	d := deed.NewDesk(s, o.Log)
	a := &App{Desk: d, Index: x, Work: work.New(d, o.Lease), People: people.New(d), Files: files.New(d, o.Limits), Cabinets: cabinets.New(d, x)}
	a.Policy = policy.New(d, a.Cabinets)
	a.People.Needs = a.Policy
	if o.Passwords != (auth.Cost{}) {
		a.People.Passwords = o.Passwords
	}
	a.Models = models.New(d, x, a.Files, a.Cabinets, a.Policy)
	a.Series = series.New(d, x)
	a.Parts = parts.New(d, x, a.Cabinets, a.Policy, a.Models)
	a.Finder = finder.New(d, x, a.Cabinets, a.Policy)
	a.Lifecycles = lifecycles.New(d, x, a.Cabinets, a.Policy, a.Models, a.Parts)
	a.Fitting = fitting.New(d, x, a.Cabinets, a.Models, a.Parts)
	a.Intakes = intakes.New(d, intakes.Rooms{Index: x, Work: a.Work, Files: a.Files, Cabinets: a.Cabinets, Models: a.Models, Parts: a.Parts, Policy: a.Policy, Lives: a.Lifecycles, Guard: o.Guard})
	a.Finder.OfIntake = a.Intakes.PartsOf
	a.Deliveries = deliveries.New(d, deliveries.Rooms{Index: x, Files: a.Files, Cabinets: a.Cabinets, Models: a.Models, Parts: a.Parts, Intakes: a.Intakes})
	a.Reform = reform.New(d, x, a.Work, a.Cabinets, a.Policy, a.Parts)
	a.Offers = offers.New(d, offers.Rooms{Index: x, Work: a.Work, Files: a.Files, Cabinets: a.Cabinets, Parts: a.Parts, Intakes: a.Intakes, Arrive: a.Deliveries, Guard: o.Guard, Secrets: o.Secrets, Night: o.Night})
	a.BOMs = boms.New(d, x, a.Files, a.Cabinets, a.Policy, a.Offers, a.Lifecycles)
	a.Lifecycles.Register(store.KindBOM, a.BOMs)
	a.Reform.Register(a.BOMs.FollowSteps)
	a.Reform.Register(a.Finder.FollowSteps)
	a.Offers.Needs, a.Offers.Series = a.BOMs.Needs, a.Series
	a.Wants = wants.New(d, x, a.Parts, a.BOMs)
	a.Readout = readout.New(d, readout.Rooms{Models: a.Models, Parts: a.Parts, Cabinets: a.Cabinets, Policy: a.Policy, Keeper: o.Keeper, Reader: o.Reader, Base: o.Base})
	a.Audit = audit.New(d, x, a.Work, a.Cabinets, a.Policy)
	a.Notices = notices.New(d, notices.Rooms{Index: x, Cabinets: a.Cabinets, Parts: a.Parts, Guard: o.Guard, Mail: o.Mail, Key: o.Key, Base: o.Base})
	a.Notices.BoardsWith = a.BOMs.BoardsWith
	a.Comments = comments.New(d, a.Parts, a.Lifecycles)
	a.Worklist = worklist.New(d)
	a.kindsOfWork()
	return a
}
