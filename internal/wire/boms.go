package wire

import (
	"time"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/finding"
	"jollydrawer/core/money"
	"jollydrawer/core/part"
	"jollydrawer/formats/rows"
)

// NewBOM brings in a BOM.
type NewBOM struct {
	Name     string        `json:"name" minLength:"1" maxLength:"100"`
	FileHash string        `json:"fileHash,omitempty"`
	FileName string        `json:"fileName,omitempty" maxLength:"255"`
	Layout   rows.Layout   `json:"layout,omitempty"`
	Files    []VariantFile `json:"files,omitempty" maxItems:"24" doc:"Instead of a file: one of each variant of the board, which are put together"`
	Build    int           `json:"build,omitempty" minimum:"0" maximum:"1000000" doc:"Boards that are built at once; 0: not said"`
	Origin   string        `json:"origin,omitempty" maxLength:"100" doc:"Who or what the file comes from: what was taught for that origin counts"`
}

// VariantFile is the file of one variant of a board.
type VariantFile struct {
	Variant  string      `json:"variant" minLength:"1" maxLength:"60" doc:"What the variant is called"`
	FileHash string      `json:"fileHash"`
	FileName string      `json:"fileName" minLength:"1" maxLength:"255"`
	Layout   rows.Layout `json:"layout,omitempty"`
}

// BOM is a BOM beside the library.
type BOM struct {
	ID        string          `json:"id"`
	Name      string          `json:"name"`
	Version   int             `json:"version"`
	FileName  string          `json:"fileName"`
	Files     []VariantFile   `json:"files,omitempty" doc:"Of which its file was put together, one of each variant"`
	Origin    string          `json:"origin,omitempty" doc:"Who or what its files come from"`
	Build     int             `json:"build" doc:"Boards that are built at once; 0: not said"`
	Due       string          `json:"due,omitempty" doc:"The day of the build, such as 2027-01-15"`
	Yearly    int             `json:"yearly,omitempty" doc:"Boards that are built in a year; 0: not said"`
	Variants  []string        `json:"variants" doc:"The variants that the board is built in; none: it has none"`
	Variant   string          `json:"variant,omitempty" doc:"The variant that is built, where somebody said so"`
	Shown     string          `json:"shown,omitempty" doc:"The variant that the lines are shown of; blank: all"`
	Buying    buying.Rules    `json:"buying" doc:"How its parts are bought"`
	Revision  int             `json:"revision" doc:"The newest that was frozen; 0: none"`
	States    States          `json:"states" doc:"Of its newest revision, of its lines as they are now where they were changed since, and how the board may be used"`
	Updated   time.Time       `json:"updated"`
	Columns   bom.Columns     `json:"columns" doc:"What each column was taken for"`
	Confirmed string          `json:"confirmed,omitempty" doc:"Who confirmed what the columns of files with these headings mean"`
	Layout    *rows.Layout    `json:"layout,omitempty"`
	Skipped   []bom.Skipped   `json:"skipped" doc:"Rows of the file that are no lines, with why"`
	Counts    map[string]int  `json:"counts"`
	Findings  int             `json:"findings"`
	Hindered  map[string]int  `json:"hindered" doc:"What keeps it from being frozen without a reason, and of how many lines: open, unreleased, fitted-unclear, level-unclear, board-open"`
	Causes    []finding.Cause `json:"causes" doc:"What the findings have in common, the worst first; lines that nobody answered among them"`
	Lines     []BOMLine       `json:"lines"`
	Partial   bool            `json:"partial,omitempty" doc:"Its lines are those alone that may be otherwise than in the version before"`
	Problem   string          `json:"problem,omitempty"`
}

// BOMLine is a line with its verdict.
type BOMLine struct {
	Row          int               `json:"row"`
	Designators  []string          `json:"designators"`
	Written      string            `json:"written"`
	Quantity     int               `json:"quantity" doc:"-1 where none is written"`
	Amount       string            `json:"amount,omitempty" doc:"What is needed where it is not counted in pieces, such as 0.3 m"`
	Number       string            `json:"number"`
	MPN          string            `json:"mpn"`
	Manufacturer string            `json:"manufacturer"`
	Value        string            `json:"value"`
	Package      string            `json:"package"`
	Description  string            `json:"description"`
	In           []string          `json:"in,omitempty" doc:"The variants of the board that it is in; left out: all"`
	Held         int               `json:"held,omitempty" doc:"The older revision of its record that the board holds on to"`
	Level        int               `json:"level,omitempty" doc:"How deep in the structure of sub-assemblies it stands, where the BOM has levels"`
	Times        int64             `json:"times,omitempty" doc:"How often one board takes the sub-assembly that it is part of; left out: once"`
	Verdict      string            `json:"verdict"`
	Part         *BOMPart          `json:"part,omitempty"`
	Board        *BoardTaken       `json:"board,omitempty" doc:"The other BOM that it is"`
	Options      []BOMPart         `json:"options" doc:"Further records that may be meant, the best first"`
	Tally        []bom.Beside      `json:"tally" doc:"Every piece of the line beside the part, or with what it was taken for where there is none"`
	Contradicted bool              `json:"contradicted" doc:"Something in the line contradicts the part"`
	Evidence     []string          `json:"evidence"`
	Findings     []finding.Finding `json:"findings"`
	Chosen       bool              `json:"chosen" doc:"A person chose the part"`
	Reason       string            `json:"reason,omitempty" doc:"Why it was chosen though something contradicts it"`
	Alike        int               `json:"alike,omitempty" doc:"Other open lines that ask for the same"`
	Taught       *Taught           `json:"taught,omitempty" doc:"Somebody said before what such lines stand for, and the part comes from that"`
	Ending       *bom.Ending       `json:"ending,omitempty" doc:"What the MPN has more than the part's: where it names a packing, say so for the maker"`
}

// BOMPart is a record that a line may stand for.
type BOMPart struct {
	ID           string        `json:"id"`
	Number       string        `json:"number"`
	Description  string        `json:"description"`
	Standing     string        `json:"standing"`
	Revision     int           `json:"revision"`
	Manufacturer string        `json:"manufacturer"`
	MPN          string        `json:"mpn"`
	Sources      []part.Source `json:"sources"`
}

// BoardTaken is another BOM that a line is, with the revision that the board takes.
type BoardTaken struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision" doc:"0: none can be taken"`
	Label    string `json:"label" doc:"What the revision is called"`
	Variant  string `json:"variant,omitempty"`
	Lines    int    `json:"lines" doc:"That it is made of"`
}

// BOMList is a page of BOMs, without lines.
type BOMList struct {
	Page  Page  `json:"page"`
	Items []BOM `json:"items"`
}

// BOMBuild says how many boards are built at once.
type BOMBuild struct {
	Boards  int     `json:"boards" minimum:"0" maximum:"1000000" doc:"0: not said"`
	Due     *string `json:"due,omitempty" maxLength:"10" doc:"The day of the build, such as 2027-01-15; left out: as it was, blank: not said"`
	Yearly  *int    `json:"yearly,omitempty" minimum:"0" maximum:"100000000" doc:"Boards that are built in a year; left out: as it was, 0: not said"`
	Variant *string `json:"variant,omitempty" maxLength:"60" doc:"The variant that is built; left out: as it was, blank: not said"`
}

// BOMChoices accepts or withdraws records for lines.
type BOMChoices struct {
	Choose   []BOMChoice `json:"choose,omitempty" maxItems:"20000"`
	Withdraw []int       `json:"withdraw,omitempty" maxItems:"20000" doc:"Rows whose choice is taken back"`
}

// BOMChoice names the part for one line.
type BOMChoice struct {
	Row     int    `json:"row"`
	Part    string `json:"part,omitempty" maxLength:"200" doc:"ID or number"`
	Board   string `json:"board,omitempty" maxLength:"200" doc:"It is another BOM: ID or name"`
	Variant string `json:"variant,omitempty" maxLength:"60" doc:"Of that one's board, where it is built in several"`
	None    bool   `json:"none,omitempty" doc:"It is no part of the library: a board, a label, a fiducial, a consumable"`
	Reason  string `json:"reason,omitempty" maxLength:"500" doc:"Needed where something in the line contradicts the part, and where it is none"`
	Alike   bool   `json:"alike,omitempty" doc:"For every other open line that asks for the same, too"`
	Learn   string `json:"learn,omitempty" enum:"propose,link" doc:"For the next files with these headings from this origin: such lines are proposed the part, or linked to it where a fact agrees and nothing speaks against it"`
}

// LearnLink is said of a choice that links such lines by itself next time.
const LearnLink = "link"

// Taught is who said what lines stand for.
type Taught struct {
	By    string    `json:"by"`
	At    time.Time `json:"at"`
	Links bool      `json:"links" doc:"It links by itself where a fact agrees and nothing speaks against it"`
}

// Reading is what lines of files with the same headings and origin stand for, as somebody taught it.
type Reading struct {
	ID          string    `json:"id"`
	Headings    []string  `json:"headings"`
	Origin      string    `json:"origin,omitempty"`
	Text        string    `json:"text" doc:"What the lines say: designator letters and cells"`
	Part        string    `json:"part" doc:"Number"`
	None        bool      `json:"none,omitempty" doc:"They are no part of the library"`
	Description string    `json:"description"`
	Links       bool      `json:"links"`
	By          string    `json:"by"`
	At          time.Time `json:"at"`
	BOM         string    `json:"bom" doc:"Where it was taught"`
	Void        string    `json:"void,omitempty" doc:"Why it links nothing any more"`
}

// Readings is a page of what was taught, the newest first.
type Readings struct {
	Page  Page      `json:"page"`
	Items []Reading `json:"items"`
}

// ReadingsAsked asks for what was taught.
type ReadingsAsked struct {
	BOM           string // for files like its; blank: for all
	Offset, Limit int
}

// WithdrawReading takes a reading back.
type WithdrawReading struct {
	ID string `json:"id" maxLength:"100"`
}

// BOMOrigin says who or what a BOM's files come from.
type BOMOrigin struct {
	Origin string `json:"origin" maxLength:"100" doc:"Blank: nobody said"`
}

// BOMColumns says what the columns of a BOM mean, for all files with the same headings.
type BOMColumns struct {
	Columns []BOMColumn `json:"columns" maxItems:"500" doc:"Those to change; none: confirm them all as they are"`
}

// BOMColumn gives one column its role.
type BOMColumn struct {
	At      int      `json:"at"`
	Role    bom.Role `json:"role" doc:"designator, quantity, number, mpn, manufacturer, supplier, supplierNumber, value, package, description, fact, fit (marks say whether it is fitted), notFitted (marks name what is left off), variants (lists the variants that a line is in), level (how deep in the structure of sub-assemblies it stands), remark, or blank: not used"`
	Param   string   `json:"param,omitempty" doc:"The parameter of a fact"`
	Blank   string   `json:"blank,omitempty" enum:"fitted,not fitted" doc:"What an empty cell means in a column about fitting"`
	Variant string   `json:"variant,omitempty" maxLength:"60" doc:"The variant that a column about fitting, or of quantities, is of"`
}

// MPNEnding is what stands behind a maker's MPNs and names a packing only.
type MPNEnding struct {
	Maker    string    `json:"maker" maxLength:"200"`
	Ending   string    `json:"ending" maxLength:"40" doc:"One to four letters or digits, such as TR"`
	By       string    `json:"by,omitempty" readOnly:"true" doc:"Who confirmed it"`
	At       time.Time `json:"at,omitzero" readOnly:"true"`
	Withdraw bool      `json:"withdraw,omitempty" doc:"It is none after all"`
}

// MPNEndings are the confirmed endings of all makers.
type MPNEndings struct {
	Items []MPNEnding `json:"items"`
}

// FreezeBOM makes the next revision of a BOM.
type FreezeBOM struct {
	Note   string `json:"note" minLength:"1" maxLength:"500" doc:"What the revision is for"`
	Anyway string `json:"anyway,omitempty" maxLength:"500" doc:"Why it is frozen with lines that no released record answers; they are left without a pin"`
	Minor  bool   `json:"minor,omitempty" doc:"Only the second figure of its label counts on, where revisions are counted so"`
}

// WaiveFindings accepts findings of lines, or takes that back.
type WaiveFindings struct {
	Cause string `json:"cause" minLength:"1" maxLength:"200" doc:"Of the findings, as the BOM has it"`
	Rows  []int  `json:"rows,omitempty" nullable:"false" maxItems:"10000" doc:"Of the lines; left out: of all that have it"`
	Why   string `json:"why" maxLength:"500" doc:"Why they are as they should be; blank takes the waivers back"`
}

// MoveOnParts takes the newer revisions of parts that a board holds on to older ones of.
type MoveOnParts struct {
	Parts []string `json:"parts,omitempty" nullable:"false" maxItems:"10000" doc:"By ID or number; left out: all that are behind"`
}

// BOMFunctions are the functions of a board that are bought as several parts, and what its build would come to with one for each.
type BOMFunctions struct {
	Boards  int64         `json:"boards" doc:"Of the build that is worked out"`
	Sum     money.Amount  `json:"sum" doc:"What the build comes to as it is"`
	Missing int64         `json:"missing" doc:"How many pieces are not in the sum: they have no price, no rate or no record"`
	Items   []BOMFunction `json:"items"`
	More    int           `json:"more" doc:"Functions that are not worked out: there are too many"`
}

// BOMFunction is one function, by the parts that it is bought as, the one that saves most first.
type BOMFunction struct {
	Parts []UnitedPart `json:"parts"`
}

// UnitedPart is a part that could be the only one of a function.
type UnitedPart struct {
	BOMPart
	Rows    []int        `json:"rows" doc:"Of the lines that it is on now"`
	Sum     money.Amount `json:"sum" doc:"What the build would come to with this one alone"`
	Missing int64        `json:"missing" doc:"How many pieces would not be in that sum"`
	Saves   money.Amount `json:"saves" doc:"What the build would come to less"`
	Why     string       `json:"why,omitempty" doc:"Why that cannot be said"`
	Short   bool         `json:"short,omitempty" doc:"Suppliers would have less of something than the build takes, and have it now"`
}

// Severities are how bad the house takes the findings of its BOMs.
type Severities struct {
	Version int                         `json:"version" doc:"0: nobody said so yet"`
	Text    string                      `json:"text" doc:"YAML, of the form jolly-severities/1"`
	Usual   map[string]finding.Severity `json:"usual" doc:"Every cause with the severity that it has where the house says nothing"`
}

// SheetForms are the sheets of the house: what its purchasing, its production or its partners want to have, made of the usual sheets of a BOM.
type SheetForms struct {
	Version int         `json:"version" doc:"0: nobody said so yet"`
	Text    string      `json:"text" doc:"YAML, of the form jolly-sheets/1"`
	Sheets  []SheetForm `json:"sheets"`
}

// SheetForm is one sheet of the house.
type SheetForm struct {
	Name    string `json:"name" doc:"By which it is asked for"`
	Of      string `json:"of" doc:"The usual sheet that it is made of: lines, purchase, assembly or numbers"`
	Columns int    `json:"columns"`
}

// SheetFormsEdit is a document of sheets.
type SheetFormsEdit struct {
	Text string `json:"text" minLength:"1" maxLength:"200000" doc:"YAML or JSON, of the form jolly-sheets/1"`
}

// SeveritiesEdit is a document of severities.
type SeveritiesEdit struct {
	Text string `json:"text" minLength:"1" maxLength:"200000" doc:"YAML or JSON, of the form jolly-severities/1"`
}

// BOMRevision is a frozen revision of a BOM.
type BOMRevision struct {
	Revision int       `json:"revision"`
	Label    string    `json:"label" doc:"What it is called, as the lifecycle counts"`
	State    State     `json:"state"`
	Why      string    `json:"why,omitempty" doc:"Why it was moved to where it is"`
	Note     string    `json:"note"`
	By       string    `json:"by"`
	At       time.Time `json:"at"`
	Hash     string    `json:"hash" doc:"Of its content"`
	Before   string    `json:"before" doc:"The hash of the revision before it"`
}

// BOMRevisions are the revisions of a BOM, newest first.
type BOMRevisions struct {
	Items []BOMRevision `json:"items"`
}

// FrozenBOM is a revision with all of its lines, and what became otherwise in the library since.
type FrozenBOM struct {
	BOMRevision
	ID string `json:"id"`
	bom.Frozen
	Behind []bom.Drift    `json:"behind"`
	Now    *buying.Since  `json:"now,omitempty" doc:"What its build would come to now, bought as it was costed for; nothing where it was not costed"`
	Builds []BOMBuildMade `json:"builds" doc:"Boards that were built of it, newest first"`
}

// BuiltBOM says that boards of a revision were built.
type BuiltBOM struct {
	Boards  int    `json:"boards" minimum:"1" maximum:"1000000" doc:"That work"`
	Which   string `json:"which" minLength:"1" maxLength:"300" doc:"Which boards: lot, place, day"`
	Variant string `json:"variant,omitempty" maxLength:"60" doc:"Of the board; blank: the one that the revision was costed for, where it has several"`
}

// BOMBuildMade is boards that were built of a revision.
type BOMBuildMade struct {
	ID      string    `json:"id"`
	Boards  int       `json:"boards"`
	Which   string    `json:"which"`
	Variant string    `json:"variant,omitempty"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Proved  int       `json:"proved" doc:"Exact revisions that somebody confirmed as proved by it"`
}

// BuildProof is what a build proposes as proved: every exact revision of a part that is fitted, and of its models.
type BuildProof struct {
	BOM      string       `json:"bom"`
	Revision int          `json:"revision"`
	Build    BOMBuildMade `json:"build"`
	Items    []ProofItem  `json:"items"`
}

// ProofItem is one exact revision that a build used.
type ProofItem struct {
	Kind     string   `json:"kind" doc:"part or model"`
	ID       string   `json:"id"`
	Name     string   `json:"name" doc:"Number of a part, name of a model"`
	Says     string   `json:"says" doc:"What it is"`
	Revision string   `json:"revision" doc:"Label of the revision that was used"`
	Newest   bool     `json:"newest" doc:"That revision is the newest"`
	Used     []string `json:"used" doc:"Designators, or numbers of the parts that use the model"`
	Boards   int      `json:"boards" doc:"Built boards that prove that revision so far"`
	Proved   bool     `json:"proved" doc:"This build is among them"`
}

// ConfirmProof confirms that what a build used worked: all that it proposes, or some.
type ConfirmProof struct {
	All    bool     `json:"all,omitempty"`
	Things []string `json:"things,omitempty" maxItems:"20000" doc:"Identifiers"`
}

// BOMAt is a BOM at a revision.
type BOMAt struct {
	BOM      string
	Revision int    // 0: as it is now
	Variant  string // of the board; blank: all, or where only one can be meant the one that is built
}

// BOMComparison is what two BOMs differ in.
type BOMComparison struct {
	From string `json:"from"`
	To   string `json:"to"`
	bom.Comparison
	Boards int64     `json:"boards" doc:"Of the builds whose cost is beside each other"`
	Before BoardCost `json:"before"`
	After  BoardCost `json:"after"`
}

// BuyingRules are how the parts of a BOM are bought.
type BuyingRules = buying.Rules

// BOMCost is what builds of a BOM come to.
type BOMCost struct {
	BOM      string        `json:"bom"`
	Name     string        `json:"name" doc:"Of the BOM, with its revision"`
	Variants []string      `json:"variants"`
	Variant  string        `json:"variant,omitempty" doc:"The variant of the board that it is of"`
	Rules    buying.Rules  `json:"rules"`
	Ready    bom.Readiness `json:"ready"`
	buying.Costing
	Points []CostPoint `json:"points" doc:"What other numbers of boards come to"`
}

// CostPoint is what one number of boards comes to.
type CostPoint struct {
	Boards    int64        `json:"boards"`
	Sum       money.Amount `json:"sum"`
	Board     money.Amount `json:"board"`
	Unbought  int          `json:"unbought" doc:"Parts and lines that have no price, and are not in the sum"`
	NoRate    int          `json:"noRate"`
	Short     int          `json:"short"`
	Suppliers int          `json:"suppliers"`
	LeadDays  *int         `json:"leadDays,omitempty"`
}

// CheckBOM is a file that is to be checked as a BOM.
type CheckBOM struct {
	BOM        string        `json:"bom,omitempty" doc:"The BOM whose decisions count: its identifier or name"`
	FileHash   string        `json:"fileHash,omitempty"`
	FileName   string        `json:"fileName,omitempty" maxLength:"255"`
	Layout     rows.Layout   `json:"layout,omitempty"`
	Files      []VariantFile `json:"files,omitempty" maxItems:"24" doc:"Instead of a file: one of each variant of the board, which are put together"`
	Build      int           `json:"build,omitempty" minimum:"0" maximum:"1000000" doc:"Boards that are built at once; 0: as the BOM says"`
	Variant    string        `json:"variant,omitempty" maxLength:"60" doc:"Of the board; blank: all"`
	Origin     string        `json:"origin,omitempty" maxLength:"100" doc:"Who or what it comes from; blank: as the BOM says"`
	Severities string        `json:"severities,omitempty" maxLength:"100000" doc:"A document of severities (jolly-severities/1, YAML or JSON); blank: as they are by themselves, and errors fail"`
}

// BOMCheck is what a check says of a file. Nothing was kept of it.
type BOMCheck struct {
	BOM
	Fails bool `json:"fails" doc:"A finding is as bad as makes the check fail"`
}

// BOMSheet asks for a BOM in one of its forms.
type BOMSheet struct {
	BOM      string
	Revision int // 0: as it is now
	Form     string
	Variant  string // of the board; blank: all, and for purchasing the one that is built
	Boards   int64  // of a list for purchasing; 0: those of its build
	Format   string
}

// BoardCost is what one board comes to by what suppliers say now.
type BoardCost struct {
	Board   money.Amount `json:"board" doc:"Nothing where none of it has a price"`
	Missing int          `json:"missing" doc:"Parts and lines that are not in it"`
}

// BOMName renames a BOM.
type BOMName struct {
	Name string `json:"name" minLength:"1" maxLength:"100"`
}

// RemovedBOM is what was removed.
type RemovedBOM struct {
	Name      string `json:"name"`
	Decisions int    `json:"decisions" doc:"Of people for its lines, that went with it"`
}

// BOMFile lays another file of the same board in the place of a BOM's.
type BOMFile struct {
	FileHash string        `json:"fileHash,omitempty"`
	FileName string        `json:"fileName,omitempty" maxLength:"255"`
	Layout   rows.Layout   `json:"layout,omitempty"`
	Files    []VariantFile `json:"files,omitempty" maxItems:"24" doc:"Instead of a file: one of each variant of the board, which are put together"`
}
