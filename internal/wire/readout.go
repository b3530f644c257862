package wire

// ReadoutFolder says what was written into a readout folder.
type ReadoutFolder struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// Readout says what design tools find when they read the library as SQL tables.
type Readout struct {
	On      bool            `json:"on" doc:"Whether the installation keeps tables for design tools"`
	Schema  string          `json:"schema,omitempty" doc:"That the views lie in"`
	Account string          `json:"account,omitempty" doc:"Whom design tools sign in as, and where"`
	Problem string          `json:"problem,omitempty" doc:"Why the tables could not be kept lately"`
	Fixed   []ReadoutColumn `json:"fixed" doc:"Columns that every view has"`
	Drawers []ReadoutDrawer `json:"drawers"`
}

// ReadoutDrawer is the view of one drawer.
type ReadoutDrawer struct {
	Drawer  string          `json:"drawer"`
	Label   string          `json:"label"`
	View    string          `json:"view" doc:"Its name in SQL"`
	Ready   bool            `json:"ready" doc:"It shows the columns below; otherwise it is being made, or made anew"`
	Columns []ReadoutColumn `json:"columns" doc:"Those of parameters"`
	Notes   []string        `json:"notes" doc:"Which columns are not called as their parameters are, and why"`
}

// ReadoutColumn is one column of a view.
type ReadoutColumn struct {
	Name      string `json:"name"`
	Type      string `json:"type,omitempty" doc:"In SQL"`
	Says      string `json:"says"`
	Parameter string `json:"parameter,omitempty"`
	Indexed   bool   `json:"indexed,omitempty" doc:"Sorting by it is quick however many parts there are"`
}
