package wire

import (
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
)

// Connection is how one supplier is asked.
type Connection struct {
	ID       string             `json:"id"`
	Supplier string             `json:"supplier"`
	Kind     string             `json:"kind" enum:"asked,list,uploaded" doc:"asked: live; list: its price list is fetched; uploaded: people upload its price list"`
	Version  int                `json:"version"`
	Revision int                `json:"revision"`
	Updated  time.Time          `json:"updated"`
	Text     string             `json:"text,omitempty" doc:"The document as YAML"`
	Address  string             `json:"address,omitempty"`
	Secret   string             `json:"secret,omitempty" doc:"Name of the secret that signs it in"`
	Absent   bool               `json:"secretAbsent,omitempty" doc:"The service's settings have no secret of that name"`
	Mapped   bool               `json:"mapped" doc:"There is a crosswalk for its answers"`
	Used     int                `json:"usedToday" doc:"Questions that went out today (UTC), all instances together"`
	PerDay   int                `json:"perDay,omitempty"`
	List     *PriceList         `json:"list,omitempty" doc:"The newest price list"`
	Last     *ConnectionAnswer  `json:"last,omitempty" doc:"The last answer to a question"`
	Missed   string             `json:"missed,omitempty" doc:"What its answers do not say any more, in a sentence"`
	Says     *connection.Limits `json:"limits,omitempty"`
}

// PriceList is the newest price list of a connection.
type PriceList struct {
	File    string    `json:"file"`
	Name    string    `json:"name"`
	At      time.Time `json:"at"`
	Checked time.Time `json:"checked" doc:"When the supplier was asked for a newer one last"`
}

// ConnectionAnswer is how a question was answered.
type ConnectionAnswer struct {
	At      time.Time `json:"at"`
	Problem string    `json:"problem,omitempty"`
}

// ConnectionList is a page of connections.
type ConnectionList struct {
	Page
	Items []Connection `json:"items"`
}

// ConnectionEdit is a connection's document.
type ConnectionEdit struct {
	Text string `json:"text" minLength:"1" maxLength:"200000" doc:"YAML or JSON, of the form jolly-connection/1"`
}

// ConnectionTrial is a question to a connection that is tried, kept or not.
type ConnectionTrial struct {
	Text     string `json:"text" minLength:"1" maxLength:"200000" doc:"The document"`
	Words    string `json:"words,omitempty" maxLength:"200" doc:"What is asked; blank where an answer is given"`
	Recorded string `json:"recorded,omitempty" maxLength:"4000000" doc:"An answer that was recorded: nobody is asked"`
}

// ConnectionTried says what was asked, what came, what was read and what was not.
type ConnectionTried struct {
	Asked    string            `json:"asked,omitempty" doc:"Method and address, without what signs it in"`
	Problem  string            `json:"problem,omitempty"`
	Bytes    int               `json:"bytes"`
	Products int               `json:"products"`
	Places   []ConnectionPlace `json:"places" doc:"Each path, and in how many products it led to something"`
	Problems []string          `json:"problems"`
	Fields   []answers.Field   `json:"fields" doc:"What the supplier says of products, and which parameter it fills"`
	Sample   []OfferedRow      `json:"sample"`
}

// ConnectionPlace is one path of a connection and what it found.
type ConnectionPlace struct {
	Place string `json:"place"`
	Path  string `json:"path"`
	Found int    `json:"found"`
}

// SupplierQuestion is a question to all suppliers.
type SupplierQuestion struct {
	Text         string              `json:"text" minLength:"1" maxLength:"400" doc:"Facts, as in the lookup"`
	Pieces       int64               `json:"pieces,omitempty" minimum:"0" maximum:"1000000000" doc:"How many are to be bought; 0 is 1"`
	Stock        int64               `json:"stock,omitempty" minimum:"0" maximum:"1000000000" doc:"At least so many in stock"`
	InProduction bool                `json:"inProduction,omitempty" doc:"Only what no supplier says is ending"`
	Packing      string              `json:"packing,omitempty" maxLength:"100" doc:"Word of the packing that is wanted, such as tape"`
	Again        bool                `json:"again,omitempty" doc:"Ask anew, whatever was answered within the hour"`
	Seen         int                 `json:"seen,omitempty" minimum:"0" doc:"The number of the state that was seen last: the answer waits, some seconds at most, for a newer one"`
	Limit        int                 `json:"limit,omitempty" minimum:"0" maximum:"500" doc:"Rows; 0 is 100"`
	Filters      map[string][]string `json:"filters,omitempty" doc:"By column, as in the lookup: parameters, drawer, manufacturer, offer.stock, offer.price, offer.lead"`
	Sort         []string            `json:"sort,omitempty" maxItems:"3" doc:"Columns as in the lookup, - before one for the largest first; blank: what fits first"`
}

// SupplierAnswers are what all suppliers answered until now.
type SupplierAnswers struct {
	State     int              `json:"state" doc:"Grows with each answer"`
	Done      bool             `json:"done"`
	Facts     []lookup.Fact    `json:"facts"`
	Suppliers []SupplierAnswer `json:"suppliers"`
	Own       []PartRow        `json:"own" doc:"Parts of the library that the question finds"`
	OwnTotal  int              `json:"ownTotal"`
	Rows      []OfferedRow     `json:"rows" doc:"What fits first"`
	Total     int              `json:"total"`
	Hidden    int              `json:"hidden" doc:"Products that the filters leave out"`
	Facets    []lookup.Facet   `json:"facets" doc:"Of all products that were answered with"`
	Drawers   map[string]int   `json:"drawers" doc:"Products by drawer, under all filters but that of the drawer"`
	Fit       int              `json:"fit" doc:"Rows for which all holds"`
}

// SupplierAnswer is how one supplier stands to a question.
type SupplierAnswer struct {
	Supplier string     `json:"supplier"`
	State    string     `json:"state" enum:"waiting,answered,in part,no answer"`
	Says     string     `json:"says,omitempty" doc:"What is wrong, in a sentence"`
	At       *time.Time `json:"at,omitempty" doc:"When it answered"`
	Products int        `json:"products"`
	Fit      int        `json:"fit"`
	Kept     bool       `json:"kept,omitempty" doc:"It was not asked now: the answer is from within the hour"`
	Problems []string   `json:"problems,omitempty" doc:"What of its answer could not be read"`
}

// OfferedRow is one product, with the offers of all suppliers that have it.
type OfferedRow = answers.Row

// Offer is what a supplier offers.
type Offer = answers.Offer

// SupplierLimits are a person's usual limits of questions about a kind of part.
type SupplierLimits struct {
	Drawer       string `json:"drawer" doc:"That the question is about; blank: any"`
	Label        string `json:"label"`
	Kept         bool   `json:"kept" doc:"The person said them before, for that drawer, one that it lies in, or any"`
	Pieces       int64  `json:"pieces" minimum:"0" maximum:"1000000000"`
	Stock        int64  `json:"stock" minimum:"0" maximum:"1000000000"`
	InProduction bool   `json:"inProduction"`
	Packing      string `json:"packing" maxLength:"100"`
}

// SupplierLimitsEdit are limits of a question, to be kept for others about the same kind.
type SupplierLimitsEdit struct {
	Text         string `json:"text" minLength:"1" maxLength:"400"`
	Pieces       int64  `json:"pieces" minimum:"0" maximum:"1000000000"`
	Stock        int64  `json:"stock" minimum:"0" maximum:"1000000000"`
	InProduction bool   `json:"inProduction"`
	Packing      string `json:"packing" maxLength:"100"`
}

// SupplierTake takes a product of a supplier's answer over.
type SupplierTake struct {
	Question SupplierQuestion  `json:"question" doc:"That was asked"`
	Supplier string            `json:"supplier" minLength:"1" maxLength:"120"`
	Number   string            `json:"number" minLength:"1" maxLength:"200" doc:"The supplier's"`
	Into     string            `json:"into,omitempty" maxLength:"120" doc:"Part that it becomes a source of; blank makes a part"`
	Version  int               `json:"version,omitempty" doc:"Of that part, as it was looked at"`
	Drawer   string            `json:"drawer,omitempty" maxLength:"48" doc:"Where the part goes instead of where the answer sorts it"`
	Values   map[string]string `json:"values,omitempty" doc:"What is filled by hand, by parameter"`
	Separate string            `json:"keepSeparate,omitempty" maxLength:"500" doc:"Why it stands beside a part with the same source"`
}

// SupplierTaken is what became of it.
type SupplierTaken struct {
	Part     Part     `json:"part"`
	Added    []string `json:"added" doc:"What came from the supplier"`
	Differ   []string `json:"differ" doc:"Where the supplier says otherwise than the part; the part stays as it is"`
	ByHand   []string `json:"byHand" doc:"Labels of parameters that are still to be filled"`
	Fetching *Job     `json:"fetching,omitempty" doc:"The job that fetches the datasheet"`
	Models   *Job     `json:"models,omitempty" doc:"The job that fetches the models that come with it"`
}

// FetchedModels is what became of the files of models that a supplier has ready.
type FetchedModels struct {
	Delivery string   `json:"delivery,omitempty" doc:"Number of the delivery in which they lie beside the library's"`
	Files    int      `json:"files"`
	Problems []string `json:"problems" doc:"Files that were not fetched, and why"`
}

// SupplierIntake makes intakes of many products that suppliers answered with, one for each supplier.
type SupplierIntake struct {
	Question SupplierQuestion `json:"question" doc:"That was asked"`
	Keys     []string         `json:"keys,omitempty" maxItems:"500" doc:"Of rows of the answer; blank: all that fit and that no part has"`
}

// SupplierIntakes are the intakes that were made.
type SupplierIntakes struct {
	Items []SupplierIntakeMade `json:"items"`
}

// SupplierIntakeMade is one of them.
type SupplierIntakeMade struct {
	ID       string `json:"id"`
	Number   string `json:"number"`
	Supplier string `json:"supplier"`
	Products int    `json:"products"`
}

// PartOffers are the offers of all sources of a part.
type PartOffers struct {
	Number  string         `json:"number"`
	Pieces  int64          `json:"pieces"`
	Sources []SourceOffers `json:"sources"`
	News    []OfferNews    `json:"news"`
	Best    *Offer         `json:"best,omitempty" doc:"The cheapest way to buy the pieces of one supplier"`
	History []OfferPoint   `json:"history" doc:"Stock and price of the pieces over time"`
	Models  *Job           `json:"models,omitempty" doc:"The job that fetched the models that came with a source last"`
}

// SourceOffers are the offers of one source.
type SourceOffers struct {
	Manufacturer string  `json:"manufacturer"`
	MPN          string  `json:"mpn"`
	Offers       []Offer `json:"offers"`
}

// OfferPoint is an offer at one time.
type OfferPoint struct {
	At       time.Time     `json:"at"`
	Supplier string        `json:"supplier"`
	Number   string        `json:"number"`
	Packing  string        `json:"packing,omitempty"`
	Stock    *int64        `json:"stock,omitempty"`
	Total    *money.Amount `json:"total,omitempty" doc:"What the pieces cost"`
}

// OfferNews is something that became otherwise and that somebody should see to.
type OfferNews struct {
	ID       string    `json:"id"`
	Supplier string    `json:"supplier"`
	Number   string    `json:"number" doc:"The supplier's"`
	Source   string    `json:"source"`
	Parts    []string  `json:"parts"`
	What     string    `json:"what" enum:"state,price,stock,lead,gone,back,sheet" doc:"sheet: the file of the datasheet is another one"`
	Says     string    `json:"says"`
	At       time.Time `json:"at"`
	Propose  string    `json:"propose,omitempty" doc:"The standing that is proposed"`
}

// OfferNewsList is a page of news.
type OfferNewsList struct {
	Page
	Items []OfferNews `json:"items"`
}

// SettleNews says that news were seen to.
type SettleNews struct {
	IDs []string `json:"ids" minItems:"1" maxItems:"500"`
}

// RefreshOffers asks suppliers for what they offer of parts.
type RefreshOffers struct {
	Parts  []string `json:"parts,omitempty" maxItems:"1000" doc:"Numbers; blank with no drawer and no BOM: all parts"`
	Drawer string   `json:"drawer,omitempty" maxLength:"48"`
	BOM    string   `json:"bom,omitempty" maxLength:"120" doc:"Name of a BOM: the parts that are chosen on it"`
	Lists  bool     `json:"lists,omitempty" doc:"Fetch the price lists as well"`
}

// Refreshed is what a refresh came to.
type Refreshed struct {
	Sources  int              `json:"sources" doc:"That were asked for"`
	Offers   int              `json:"offers" doc:"That were seen"`
	News     int              `json:"news"`
	Answers  []SupplierAnswer `json:"suppliers"`
	Problems []string         `json:"problems"`
}

// PriceListUpload is a price list that somebody uploaded.
type PriceListUpload struct {
	Hash string `json:"hash" minLength:"64" maxLength:"64"`
	Name string `json:"name" maxLength:"255"`
}

// Settled is how many were.
type Settled struct {
	Settled int `json:"settled"`
}

// Rates are the exchange rates in force.
type Rates struct {
	Version int    `json:"version"`
	Text    string `json:"text"`
	House   string `json:"house" doc:"The house's currency, that sums are converted to"`
}

// RatesEdit is a document of exchange rates.
type RatesEdit struct {
	Text string `json:"text" minLength:"1" maxLength:"1000000" doc:"YAML or JSON, of the form jolly-rates/1"`
}
