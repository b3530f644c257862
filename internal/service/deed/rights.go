package deed

import (
	"fmt"
	"slices"
)

// Role is what a person may do. Each role may do all that the one before it may.
type Role string

// The roles.
const (
	Reader        Role = "reader"
	Engineer      Role = "engineer"
	Librarian     Role = "librarian"
	Administrator Role = "administrator"
)

// Roles lists the roles in rising order.
var Roles = []Role{Reader, Engineer, Librarian, Administrator}

// Op is an operation that a right is needed for.
type Op string

// The operations.
const (
	OpRead          Op = "read"
	OpOwnToken      Op = "token.own"
	OpOwnPassword   Op = "password.own"
	OpFileKeep      Op = "file.keep"
	OpPartEdit      Op = "part.edit"
	OpModelEdit     Op = "model.edit"
	OpIntakeEdit    Op = "intake.edit"
	OpBOMEdit       Op = "bom.edit"
	OpBOMFreeze     Op = "bom.freeze"
	OpPartStanding  Op = "part.standing"
	OpModelRelease  Op = "model.release"
	OpCrosswalk     Op = "crosswalk.apply"
	OpIntakeTakeIn  Op = "intake.take-in"
	OpCabinet       Op = "cabinet.apply"
	OpAccountManage Op = "account.manage"
	OpVerify        Op = "verify"
	OpViewShare     Op = "view.share"
	OpPartMerge     Op = "part.merge"
	OpMove          Op = "thing.move" // which move whom is permitted is for its lifecycle to say
	OpReview        Op = "thing.review"
	OpLifecycle     Op = "lifecycle.apply"
	OpWant          Op = "want.make"
	OpWantSettle    Op = "want.settle"
	OpWatch         Op = "watch"
	OpComment       Op = "comment"
	OpHoldTakeOver  Op = "hold.take-over"
	OpAsk           Op = "supplier.ask"
	OpConnection    Op = "connection.apply"
	OpRates         Op = "rates.apply"
	OpSeverities    Op = "severities.apply"
	OpForms         Op = "sheets.apply"
	OpRefresh       Op = "offers.refresh"
)

// rights says which role an operation needs at least.
var rights = map[Op]Role{
	OpRead: Reader, OpOwnToken: Reader, OpOwnPassword: Reader, OpWatch: Reader,
	OpFileKeep: Engineer, OpPartEdit: Engineer, OpModelEdit: Engineer, OpIntakeEdit: Engineer, OpBOMEdit: Engineer, OpBOMFreeze: Engineer, OpViewShare: Engineer, OpMove: Engineer, OpReview: Engineer, OpWant: Engineer, OpComment: Engineer, OpAsk: Engineer, OpRefresh: Engineer,
	OpPartStanding: Librarian, OpPartMerge: Librarian, OpWantSettle: Librarian, OpHoldTakeOver: Librarian, OpModelRelease: Librarian, OpCrosswalk: Librarian, OpIntakeTakeIn: Librarian, OpCabinet: Librarian, OpRates: Librarian, OpSeverities: Librarian, OpForms: Librarian,
	OpAccountManage: Administrator, OpVerify: Administrator, OpLifecycle: Administrator, OpConnection: Administrator,
}

// Allows says whether a role may do an operation.
func Allows(r Role, op Op) bool {
	need, known := rights[op]
	return known && slices.Index(Roles, r) >= slices.Index(Roles, need)
}

// Allow refuses a call that the actor's role does not cover.
func Allow(c Call, op Op) error {
	if c.Actor.ID.IsZero() {
		return Fault(Stranger, "not-signed-in", "You are not signed in.", "Sign in, or send a token.")
	}
	if !Allows(c.Actor.Role, op) {
		return Fault(Forbidden, "not-allowed", fmt.Sprintf("Your role is %s; this needs the role %s.", c.Actor.Role, rights[op]), "Ask somebody who has it.")
	}
	return nil
}

// May lists what a role allows.
func May(r Role) []string {
	out := []string{}
	for op := range rights {
		if Allows(r, op) {
			out = append(out, string(op))
		}
	}
	slices.Sort(out)
	return out
}
