package command

// Touched is a kind of thing that a command changes: pages that show it look at it again.
type Touched string

// What commands change.
const (
	TouchedOrders    Touched = "orders" // and their lines, promises and holds
	TouchedStock     Touched = "stock"
	TouchedLists     Touched = "pick lists"
	TouchedShipments Touched = "shipments"
	TouchedInbound   Touched = "inbound"
	TouchedQuotes    Touched = "quotes"
	TouchedBuying    Touched = "requests to buy"
	TouchedPolicies  Touched = "policies"
	TouchedPeople    Touched = "people"
	TouchedViews     Touched = "views"
	TouchedPapers    Touched = "papers"
	TouchedPutBacks  Touched = "put-backs"
)

// touches are what commands change, by verb. A verb that is not here changes anything: an import, and what takes another command back.
var touches = map[Verb][]Touched{
	VerbAllocate:  {TouchedOrders, TouchedStock},
	VerbGiveBack:  {TouchedOrders, TouchedStock},
	VerbRun:       {TouchedOrders, TouchedStock, TouchedPolicies},
	VerbMove:      {TouchedOrders, TouchedStock},
	VerbMakeRoom:  {TouchedOrders, TouchedStock},
	VerbRelease:   {TouchedOrders, TouchedStock, TouchedLists, TouchedPapers},
	VerbRecall:    {TouchedOrders, TouchedStock, TouchedLists, TouchedPapers, TouchedShipments, TouchedPutBacks},
	VerbLot:       {TouchedOrders, TouchedStock, TouchedLists, TouchedPapers, TouchedShipments, TouchedPutBacks},
	VerbPutBack:   {TouchedOrders, TouchedStock, TouchedPutBacks},
	VerbPrint:     {TouchedPapers},
	VerbSetBin:    {TouchedOrders, TouchedStock},
	VerbHand:      {TouchedLists},
	VerbCount:     {TouchedOrders, TouchedStock},
	VerbPick:      {TouchedOrders, TouchedStock, TouchedLists},
	VerbPack:      {TouchedOrders, TouchedStock, TouchedShipments, TouchedPapers},
	VerbUnpack:    {TouchedOrders, TouchedStock, TouchedShipments, TouchedPapers},
	VerbDispatch:  {TouchedOrders, TouchedStock, TouchedShipments},
	VerbDepart:    {TouchedOrders, TouchedStock, TouchedShipments},
	VerbNotTaken:  {TouchedOrders, TouchedShipments},
	VerbException: {TouchedOrders, TouchedShipments},
	VerbDeliver:   {TouchedOrders, TouchedShipments},
	VerbReceive:   {TouchedStock, TouchedInbound},
	VerbMoveDue:   {TouchedOrders, TouchedStock, TouchedInbound},
	VerbDrop:      {TouchedOrders, TouchedStock},
	VerbReopen:    {TouchedOrders, TouchedStock},
	VerbHold:      {TouchedOrders},
	VerbLift:      {TouchedOrders},
	VerbLiftAll:   {TouchedOrders},
	VerbPromise:   {TouchedOrders, TouchedStock},
	VerbEnter:     {TouchedOrders, TouchedStock, TouchedQuotes},
	VerbChange:    {TouchedOrders, TouchedStock, TouchedShipments, TouchedPapers},
	VerbQuote:     {TouchedQuotes},
	VerbApprove:   {TouchedQuotes},
	VerbBuy:       {TouchedBuying},
	VerbSettle:    {TouchedBuying, TouchedInbound, TouchedStock},
	VerbPolicy:    {TouchedPolicies},
	VerbPeople:    {TouchedPeople},
	VerbPassword:  {TouchedPeople},
	VerbView:      {TouchedViews},
	VerbViewAll:   {TouchedViews},
}

// Touches is what a command of that verb changes; nothing said is anything.
func (v Verb) Touches() []Touched { return touches[v] }
