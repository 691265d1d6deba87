package policy

// Who stands in the journal for what no person does directly.
const (
	ByClock = "schedule"
	ByFiles = "intake"
	ByCall  = "API call"
	ByMail  = ", by mail" // after the name of who did it
)

// ServiceNames are names that no person may bear, those in journals of earlier versions
// among them.
var ServiceNames = []string{ByClock, ByFiles, ByCall, "the clock", "the intake", "a call from outside", "the service", "kavlo"}
