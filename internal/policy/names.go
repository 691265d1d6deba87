package policy

// Who stands in the journal for what no person does directly.
const (
	ByClock = "the clock"
	ByFiles = "the intake"
	ByCall  = "a call from outside"
	ByMail  = ", by mail" // after the name of who did it
)

// ServiceNames are names that no person may bear.
var ServiceNames = []string{ByClock, ByFiles, ByCall, "the service", "kavlo"}
