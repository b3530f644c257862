package wire

import (
	"time"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/intake"
	"jollydrawer/formats/rows"
)

// NewIntake opens an intake for an uploaded file, or for a table of another database.
type NewIntake struct {
	Supplier string      `json:"supplier" minLength:"1" maxLength:"120"`
	FileHash string      `json:"fileHash,omitempty"`
	FileName string      `json:"fileName,omitempty" maxLength:"255"`
	Layout   rows.Layout `json:"layout,omitempty"`
	Mapped   string      `json:"mapped,omitempty" maxLength:"120" doc:"Number of the crosswalk that the file is mapped by; blank: the one whose layout it has"`
	Database *Database   `json:"database,omitempty" doc:"Instead of a file: read once, kept as a file"`
}

// Database names a table or a query of another MariaDB. The DSN's password is used once and kept nowhere.
type Database struct {
	DSN   string `json:"dsn" maxLength:"1000" doc:"ACCOUNT:PASSWORD@tcp(HOST:PORT)/SCHEMA"`
	Table string `json:"table,omitempty" maxLength:"128"`
	Query string `json:"query,omitempty" maxLength:"10000" doc:"One SELECT"`
}

// Intake is an intake with everything that was found, but not its rows.
type Intake struct {
	ID          string                 `json:"id"`
	Number      string                 `json:"number"`
	Version     int                    `json:"version"`
	Supplier    string                 `json:"supplier"`
	FileHash    string                 `json:"fileHash"`
	FileName    string                 `json:"fileName"`
	State       string                 `json:"state" enum:"open,taken in,taken back"`
	Updated     time.Time              `json:"updated"`
	Over        string                 `json:"over,omitempty" doc:"Number of the intake whose file this one goes over again"`
	Layout      *rows.Layout           `json:"layout,omitempty" doc:"What was decided about the file"`
	Fields      []string               `json:"fields"`
	Unmapped    []string               `json:"unmapped" doc:"Fields of the file that no rule uses; they are kept with the file"`
	Samples     map[string][]string    `json:"samples" doc:"Some texts of each field"`
	Suggestions []crosswalk.Suggestion `json:"suggestions"`
	Counts      map[string]int         `json:"counts" doc:"Rows by what taking in would do with them"`
	Rows        int                    `json:"rows"`
	Causes      []Cause                `json:"causes"`
	Coverage    []intake.Coverage      `json:"coverage"`
	Crosswalk   *crosswalk.Crosswalk   `json:"crosswalk,omitempty" doc:"With the changes of this intake"`
	Mapped      string                 `json:"mapped" doc:"Number of the crosswalk of the file's layout"`
	Others      []string               `json:"others" doc:"Numbers of the supplier's other crosswalks, for files of other layouts"`
	Revision    int                    `json:"revision" doc:"Of the crosswalk; 0: there is none yet for the layout"`
	Changes     []string               `json:"changes" doc:"Of the crosswalk, made here, in words; each can be taken back until the intake is taken in"`
	Waived      []intake.Waiver        `json:"waived"`
	Known       string                 `json:"known" enum:"ask,replace,fill,keep" doc:"How rows that the library has with other values are settled"`
	Policies    map[string]string      `json:"policies" doc:"Parameter → replace, fill, keep (ours is right) or ask, whatever known says"`
	Differing   map[string]int         `json:"differing" doc:"Parameter → rows that the library has with another value"`
	Like        string                 `json:"like,omitempty" enum:"alternate,keep" doc:"How rows like a part are settled; blank: as parts of their own"`
	Decisions   map[string]int         `json:"decisions" doc:"What people decided about rows, here and in earlier files of the supplier, by how it stands in this file"`
	Links       int                    `json:"links" doc:"Datasheets that the rows name"`
	LinksDone   int                    `json:"linksDone" doc:"Of those, the ones that were fetched, or found to be dead"`
	Digest      string                 `json:"digest" doc:"Of what taking in would do; to be named when taking in"`
	Problem     string                 `json:"problem,omitempty" doc:"Why the file or its crosswalk cannot be used"`
	Notice      string                 `json:"notice,omitempty" doc:"What changed around the intake since it was last edited"`
	Job         *Job                   `json:"job,omitempty" doc:"The last work on it"`
	Taken       *TakenIn               `json:"taken,omitempty"`
}

// Cause is a cause with the ways that would settle it.
type Cause struct {
	finding.Cause
	Mends []intake.Mend `json:"mends"`
}

// IntakeList lists intakes.
type IntakeList struct {
	Page  Page     `json:"page"`
	Items []Intake `json:"items"`
}

// IntakeRow is one row and what it would become.
type IntakeRow struct {
	Row          int               `json:"row"`
	State        string            `json:"state"`
	Why          string            `json:"why,omitempty"`
	Kind         string            `json:"kind,omitempty"`
	Drawer       string            `json:"drawer,omitempty"`
	Because      string            `json:"because,omitempty" doc:"Why it is in this drawer"`
	Number       string            `json:"number,omitempty" doc:"The number the file brings, or the part in the library"`
	Manufacturer string            `json:"manufacturer,omitempty"`
	MPN          string            `json:"mpn,omitempty"`
	Description  string            `json:"description,omitempty"`
	Values       map[string]string `json:"values"`
	Changes      []intake.Change   `json:"changes" doc:"Of an update: what changes"`
	Findings     []finding.Finding `json:"findings"`
}

// IntakeRowDetail is a row with its cells as they came, and where each value comes from.
type IntakeRowDetail struct {
	IntakeRow
	Cells   []Cell            `json:"cells"`
	Origins map[string]string `json:"origins" doc:"Parameter → in words"`
	Decided string            `json:"decided,omitempty"`
}

// Cell is a field of a row.
type Cell struct {
	Field     string `json:"field"`
	Text      string `json:"text"`
	Corrected string `json:"corrected,omitempty"`
	Edited    bool   `json:"edited,omitempty"`
	By        string `json:"by,omitempty" doc:"Who corrected it, when, where and why"`
}

// IntakeRows is a page of rows.
type IntakeRows struct {
	Page  Page        `json:"page"`
	Items []IntakeRow `json:"items"`
}

// FindingList is a page of findings.
type FindingList struct {
	Page  Page              `json:"page"`
	Items []finding.Finding `json:"items"`
}

// IntakeEdit is what a person decides about an intake; all of it is one deed.
type IntakeEdit struct {
	LeaveOut    []int              `json:"leaveOut,omitempty" maxItems:"100000" doc:"Rows to leave out"`
	LeaveCause  string             `json:"leaveCause,omitempty" maxLength:"500" doc:"Leave out all rows with a finding of this cause"`
	TakeBack    []int              `json:"takeBack,omitempty" maxItems:"100000" doc:"Rows whose earlier decisions are withdrawn"`
	Drawer      string             `json:"drawer,omitempty" doc:"Drawer for rows"`
	Rows        []int              `json:"rows,omitempty" maxItems:"100000" doc:"The rows that go into drawer, or that decide settles"`
	Everywhere  bool               `json:"everywhere,omitempty" doc:"Leave out, or put into drawer, all rows of the same manufacturer part numbers, in all files of the layout"`
	Decide      *intake.Decision   `json:"decide,omitempty" doc:"How rows are settled: replace, fill, keep, separate (with a reason) or alternate"`
	Cells       []CellEdit         `json:"cells,omitempty" maxItems:"10000"`
	Layout      *rows.Layout       `json:"layout,omitempty"`
	Mapped      *string            `json:"mapped,omitempty" maxLength:"120" doc:"Number of the crosswalk that the file is mapped by; blank: the one whose layout it has"`
	Changes     []crosswalk.Change `json:"changes,omitempty" maxItems:"500" doc:"Of the crosswalk"`
	DropChanges []int              `json:"dropChanges,omitempty" doc:"Changes to take back, by their place from 0"`
	Suggested   bool               `json:"suggested,omitempty" doc:"Make the rules that are suggested as certain"`
	Known       string             `json:"known,omitempty" enum:"ask,replace,fill,keep"`
	Policies    map[string]string  `json:"policies,omitempty" doc:"Parameter → replace, fill, keep or ask; blank: as known says"`
	Like        string             `json:"like,omitempty" enum:"new,alternate,keep"`
	Waive       *WaiveEdit         `json:"waive,omitempty"`
	DropWaivers []int              `json:"dropWaivers,omitempty" doc:"Waivers to take back, by their place from 0"`
	Decided     *DecidedEdit       `json:"decided,omitempty"`
	SettleCause *SettleCause       `json:"settleCause,omitempty"`
	Withdraw    []string           `json:"withdraw,omitempty" maxItems:"10000" doc:"Decisions to take back, by their identifiers"`
	// What somebody settled stays settled: an edit that would change such rows, other than those it names, is refused unless this says so.
	EvenSettled bool  `json:"evenSettled,omitempty" doc:"Also rows that somebody settled before"`
	KeepSettled bool  `json:"keepSettled,omitempty" doc:"All but those: what the edit would make of them otherwise is settled as it is, in their cells"`
	EvenRows    []int `json:"evenRows,omitempty" maxItems:"10000" doc:"Rows that somebody settled before, and that may change all the same"`
}

// DecidedEdit settles corrections whose cells say something else by now.
type DecidedEdit struct {
	Cause string `json:"cause" maxLength:"500"`
	As    string `json:"as" enum:"again,withdraw" doc:"Correct the cells again, or take the corrections back"`
}

// SettleCause settles the rows of a cause that the library has, or that are like a part: each as though it was named.
type SettleCause struct {
	Cause string `json:"cause" maxLength:"500"`
	As    string `json:"as" enum:"replace,fill,keep,alternate"`
}

// Decision is what somebody settled about a row of a supplier's files, in the words of the row.
type Decision struct {
	ID        string            `json:"id"`
	Kind      string            `json:"kind" enum:"left-out,drawer,cell,settled,accepted"`
	Supplier  string            `json:"supplier"`
	Row       string            `json:"row" doc:"The row in a few words: its source where it names one"`
	About     map[string]string `json:"about" doc:"Field → text: the cells that tell the row from the others of its file"`
	Nth       int               `json:"nth,omitempty" doc:"Of several rows that nothing tells apart, which one, from 1"`
	Field     string            `json:"field,omitempty" doc:"Of a correction: its field; of an accepted finding: its cause"`
	Seen      map[string]string `json:"seen" doc:"What the row said of it then"`
	Outcome   string            `json:"outcome,omitempty"`
	Why       string            `json:"why,omitempty"`
	By        string            `json:"by"`
	At        time.Time         `json:"at,omitzero"`
	Intake    string            `json:"intake" doc:"Number of the intake where it was made"`
	Fate      string            `json:"fate,omitempty" enum:"holds,needless,otherwise,absent" doc:"In the intake that was asked: whether it holds; the file says by now what was decided; the file says something else; the file has no such row"`
	Rows      []int             `json:"rows" doc:"In the intake that was asked: the rows that it is about"`
	Withdrawn string            `json:"withdrawn,omitempty" doc:"Who took it back"`
}

// DecisionList is a page of decisions.
type DecisionList struct {
	Page  Page           `json:"page"`
	Items []Decision     `json:"items"`
	Fates map[string]int `json:"fates,omitempty" doc:"Of an intake: how many stand how"`
}

// WithdrawDecisions takes decisions back for the files that come from now on.
type WithdrawDecisions struct {
	IDs []string `json:"ids" minItems:"1" maxItems:"10000"`
}

// Withdrawn says how many decisions were taken back.
type Withdrawn struct {
	Decisions int `json:"decisions"`
}

// KeepNumbers keeps the numbers that rows bring as former numbers of the parts that the rows stand for.
type KeepNumbers struct {
	Rows []int `json:"rows,omitempty" maxItems:"2000" doc:"Only of these rows; all where there are none"`
}

// KeptNumbers says how many numbers were kept.
type KeptNumbers struct {
	Numbers int `json:"numbers"`
}

// IntakeTry asks what an edit would do.
type IntakeTry struct {
	IntakeEdit
	Choice *intake.NewChoice `json:"choice,omitempty" doc:"Instead of an edit: a choice that would be added to the cabinet"`
	Limit  int               `json:"limit,omitempty" minimum:"0" maximum:"5000" doc:"Of the rows that are named; 200 where it is not given"`
	Offset int               `json:"offset,omitempty" minimum:"0"`
}

// NewChoice is a choice to be added to a parameter of the cabinet.
type NewChoice = intake.NewChoice

// IntakeTried is what an edit would do: every row whose values, drawer or state would change.
type IntakeTried struct {
	Version   int                  `json:"version" doc:"Of the intake that was looked at"`
	Rows      int                  `json:"rows" doc:"How many rows would change"`
	Settled   int                  `json:"settled" doc:"How many of them somebody settled before; they are named first"`
	LeftOut   int                  `json:"leftOut" doc:"How many rows would be left out that are not"`
	Lost      int                  `json:"lost" doc:"How many values would be blank that are not, in rows that stay"`
	Loses     []string             `json:"loses" doc:"The parameters that would lose values, with how many"`
	Moved     []intake.Moved       `json:"moved"`
	Before    map[intake.State]int `json:"before" doc:"Rows by state"`
	After     map[intake.State]int `json:"after"`
	Elsewhere *Elsewhere           `json:"elsewhere,omitempty" doc:"Of a correction that holds everywhere: where else the field says that"`
	Problem   string               `json:"problem,omitempty" doc:"Why the intake could not be taken in afterwards, where its file or mapping as a whole is the reason"`
}

// Elsewhere is where else a field says a text: in the other files of the same supplier and layout.
type Elsewhere struct {
	Rows  int      `json:"rows"`
	Files int      `json:"files" doc:"Other files that have such rows"`
	Named []string `json:"named" doc:"The first ten of them, by their intakes"`
	Of    int      `json:"of" doc:"How many other files were looked at: the hundred last opened"`
}

// CellEdit corrects one cell; the file stays as it is.
type CellEdit struct {
	Row   int    `json:"row"`
	Field string `json:"field"`
	Text  string `json:"text" maxLength:"2000"`
	Undo  bool   `json:"undo,omitempty" doc:"The text as it came again"`
	// A correction holds for its row; this makes it one of the crosswalk.
	Everywhere bool   `json:"everywhere,omitempty" doc:"Wherever the field says what it says in this row, in all files of the layout"`
	Why        string `json:"why,omitempty" maxLength:"500"`
}

// WaiveEdit accepts the findings of a cause.
type WaiveEdit struct {
	Cause string `json:"cause" maxLength:"500"`
	Rows  []int  `json:"rows,omitempty" maxItems:"100000" doc:"Only of these rows"`
	Why   string `json:"why" minLength:"1" maxLength:"500"`
}

// RuleTry asks what a rule does to the rows of an intake.
type RuleTry struct {
	Rule crosswalk.Rule `json:"rule"`
}

// RuleTried is what a rule does: some rows before and after.
type RuleTried struct {
	Samples []intake.Sample `json:"samples"`
	Read    int             `json:"read" doc:"Distinct texts that become values"`
	Unread  int             `json:"unread"`
	Problem string          `json:"problem,omitempty"`
}

// TakeIn asks for an intake to be taken in.
type TakeIn struct {
	Digest       string `json:"digest" doc:"Of the preview that was looked at"`
	LeaveBlocked bool   `json:"leaveBlocked,omitempty" doc:"Leave out the rows that cannot be taken in"`
	EvenSettled  bool   `json:"evenSettled,omitempty" doc:"Also where the changed crosswalk changes rows of other open intakes that somebody settled"`
}

// TakenIn is what taking in did.
type TakenIn struct {
	Intake   string         `json:"intake"`
	Parts    int            `json:"parts" doc:"Drafts made"`
	Updated  int            `json:"updated" doc:"Parts of the library that were changed, as drafts"`
	Counts   map[string]int `json:"counts"`
	First    string         `json:"first,omitempty"`
	Last     string         `json:"last,omitempty"`
	Numbers  []string       `json:"numbers" doc:"The first hundred part numbers"`
	Changed  []string       `json:"changed" doc:"The first hundred numbers of parts that were changed"`
	Revision int            `json:"revision,omitempty" doc:"Of the crosswalk that the intake's changes made"`
	Stated   map[string]int `json:"stated,omitempty" doc:"Standing → parts made of which the supplier states it, and which nobody moved there yet"`
}

// Fetched is what a job that fetches datasheets did.
type Fetched struct {
	Links int `json:"links"`
	Files int `json:"files" doc:"Distinct files"`
	Dead  int `json:"dead" doc:"Links that led to nothing, or to no PDF"`
	Parts int `json:"parts,omitempty" doc:"Parts of the library that got a file"`
	// Other is what was left a link.
	Other []string `json:"other" doc:"Parts whose link led to a file about other parts, or that may not be changed, each with why it was left a link"`
}

// FetchLinked names parts whose datasheets are only links.
type FetchLinked struct {
	Parts []string `json:"parts" minItems:"1" maxItems:"5000"`
}

// MoveStated moves the parts of which a supplier states a standing.
type MoveStated struct {
	Stated string `json:"stated" enum:"not for new designs,obsolete" doc:"What the supplier says"`
	To     string `json:"to,omitempty" maxLength:"24" doc:"Key of the state that they are moved to, where the house's lifecycle calls it otherwise"`
	Note   string `json:"note,omitempty" maxLength:"2000"`
	Rows   []int  `json:"rows,omitempty" maxItems:"20000" doc:"Only the parts of these rows; all where none is given"`
}

// TakeBack withdraws an intake that was taken in.
type TakeBack struct {
	Why string `json:"why" minLength:"1" maxLength:"500"`
}
