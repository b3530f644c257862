package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/reform"
	"jollydrawer/internal/wire"
)

type writeByID struct {
	Writing
	ID string `path:"id" format:"uuid"`
}

// intakes adds the routes by which parts come in: intakes of files, and one part from a text or a record.
func (s *Server) intakes(api huma.API) {
	get, post := http.MethodGet, http.MethodPost
	v := s.Service
	register(s, api, get, "/intakes", "list-intakes", "intakes", "All intakes, newest first", func(ctx context.Context, c deed.Call, in *Paged) (wire.IntakeList, error) {
		return v.Intakes.List(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, post, "/intakes", "open-intake", "intakes", "Open an intake for an uploaded file, or for a table of another database", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.NewIntake
	}) (wire.Intake, error) {
		return v.Intakes.Open(ctx, c, in.Body)
	})
	register(s, api, get, "/intakes/{id}", "get-intake", "intakes", "An intake with its counts and causes", func(ctx context.Context, c deed.Call, in *ByID) (wire.Intake, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Intake{}, err
		}
		return v.Intakes.Get(ctx, c, i)
	})
	register(s, api, get, "/intakes/{id}/rows", "intake-rows", "intakes", "What the rows would become", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		ID    string `path:"id" format:"uuid"`
		State string `query:"state"`
		Cause string `query:"cause"`
	}) (wire.IntakeRows, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.IntakeRows{}, err
		}
		return v.Intakes.Rows(ctx, c, i, in.State, in.Cause, in.Offset, in.Limit)
	})
	register(s, api, get, "/intakes/{id}/rows/{row}", "intake-row", "intakes", "One row: its cells as they came, and where each value comes from", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		ID  string `path:"id" format:"uuid"`
		Row int    `path:"row" minimum:"1"`
	}) (wire.IntakeRowDetail, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.IntakeRowDetail{}, err
		}
		return v.Intakes.Row(ctx, c, i, in.Row)
	})
	register(s, api, get, "/intakes/{id}/findings", "intake-findings", "intakes", "All findings", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		ID string `path:"id" format:"uuid"`
	}) (wire.FindingList, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.FindingList{}, err
		}
		return v.Intakes.Findings(ctx, c, i, in.Offset, in.Limit)
	})
	register(s, api, get, "/intakes/{id}/decisions", "intake-decisions", "intakes", "What people decided about the rows, here and in earlier files of the supplier, and how it stands in this file", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		ID   string `path:"id" format:"uuid"`
		Fate string `query:"fate" enum:"holds,needless,otherwise,absent"`
	}) (wire.DecisionList, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.DecisionList{}, err
		}
		return v.Intakes.Decisions(ctx, c, i, in.Fate, in.Offset, in.Limit)
	})
	register(s, api, get, "/decisions", "list-decisions", "intakes", "What people decided about rows of suppliers’ files, the newest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Supplier  string `query:"supplier" maxLength:"120"`
		Withdrawn bool   `query:"withdrawn" doc:"Also what was taken back"`
	}) (wire.DecisionList, error) {
		return v.Intakes.AllDecisions(ctx, c, in.Supplier, in.Withdrawn, in.Offset, in.Limit)
	})
	register(s, api, post, "/decisions/withdraw", "withdraw-decisions", "intakes", "Take decisions back for the files that come from now on", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.WithdrawDecisions
	}) (wire.Withdrawn, error) {
		return v.Intakes.WithdrawDecisions(ctx, c, in.Body)
	})
	register(s, api, post, "/intakes/{id}/tries", "try-intake-edit", "intakes", "Say what an edit would do, row by row, those that somebody settled before first; nothing is changed", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		ID   string `path:"id" format:"uuid"`
		Body wire.IntakeTry
	}) (wire.IntakeTried, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.IntakeTried{}, err
		}
		return v.Intakes.Try(ctx, c, i, in.Body)
	})
	register(s, api, post, "/intakes/{id}/edits", "edit-intake", "intakes", "Decide about rows, the mapping and the findings", func(ctx context.Context, c deed.Call, in *modelChange[wire.IntakeEdit]) (wire.Intake, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Intake, error) { return v.Intakes.Edit(ctx, c, i, n, in.Body) })
	})
	register(s, api, post, "/intakes/{id}/rule", "try-rule", "intakes", "What a rule would do to the rows, before and after; nothing changes", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		ID   string `path:"id" format:"uuid"`
		Body wire.RuleTry
	}) (wire.RuleTried, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.RuleTried{}, err
		}
		return v.Intakes.TryRule(ctx, c, i, in.Body)
	})
	s.takingIn(api)
}

// takingIn adds what is done with an intake as a whole, and by which one part comes in.
func (s *Server) takingIn(api huma.API) {
	get, post := http.MethodGet, http.MethodPost
	v := s.Service
	register(s, api, post, "/intakes/{id}/take-in", "take-in", "intakes", "Take the intake in: all or nothing, as a job", func(ctx context.Context, c deed.Call, in *modelChange[wire.TakeIn]) (wire.Job, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Job, error) { return v.Intakes.TakeIn(ctx, c, i, n, in.Body) })
	})
	register(s, api, post, "/intakes/{id}/take-back", "take-back", "intakes", "Take back what the intake made and changed, as long as nobody has built on it", func(ctx context.Context, c deed.Call, in *modelChange[wire.TakeBack]) (wire.Intake, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Intake, error) { return v.Intakes.TakeBack(ctx, c, i, n, in.Body) })
	})
	register(s, api, post, "/intakes/{id}/again", "go-over", "intakes", "Go over the file of an intake again, with the crosswalk as it is now", func(ctx context.Context, c deed.Call, in *writeByID) (wire.Intake, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Intake{}, err
		}
		return v.Intakes.GoOver(ctx, c, i)
	})
	register(s, api, post, "/intakes/{id}/numbers", "keep-numbers", "intakes", "Keep the numbers that the rows bring as former numbers of the parts that they stand for, at once", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID   string `path:"id" format:"uuid"`
		Body wire.KeepNumbers
	}) (wire.KeptNumbers, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.KeptNumbers{}, err
		}
		return v.Intakes.KeepNumbers(ctx, c, i, in.Body)
	})
	register(s, api, post, "/intakes/{id}/datasheets", "fetch-datasheets", "intakes", "Fetch the datasheets that the rows name, as a job", func(ctx context.Context, c deed.Call, in *writeByID) (wire.Job, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Job{}, err
		}
		return v.Intakes.FetchDatasheets(ctx, c, i)
	})
	register(s, api, post, "/intakes/{id}/standings", "move-stated", "intakes", "Move the parts of which the supplier states that they are obsolete, or not for new designs", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID   string `path:"id" format:"uuid"`
		Body wire.MoveStated
	}) (wire.Moved, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Moved{}, err
		}
		return v.Intakes.MoveStated(ctx, c, i, in.Body)
	})
	register(s, api, post, "/parts/datasheets", "fetch-linked", "parts", "Fetch the datasheets that parts name only by a link, as a job", func(ctx context.Context, c deed.Call, in *body[wire.FetchLinked]) (wire.Job, error) {
		return v.Intakes.FetchLinked(ctx, c, in.Body.Parts)
	})
	register(s, api, post, "/cabinet/choices", "add-choice", "cabinet", "Add a choice to a parameter", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body reform.NewChoice
	}) (wire.Cabinet, error) {
		return v.Reform.AddChoice(ctx, c, in.Body)
	})
	register(s, api, post, "/part-readings", "read-part", "parts", "What a pasted text, or a row of a file loaded before, says of one part; nothing is saved", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Body wire.ReadPart
	}) (wire.PartRead, error) {
		return v.Intakes.ReadPart(ctx, c, in.Body)
	})
	register(s, api, get, "/records", "find-records", "parts", "Rows of files loaded before that have a manufacturer or supplier number", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Number string `query:"number" maxLength:"200"`
	}) (wire.RecordList, error) {
		return v.Intakes.Records(ctx, c, in.Number)
	})
}
