module example.org/kavlo

go 1.26.0

require (
	github.com/govalues/decimal v0.1.36
	github.com/teambition/rrule-go v1.8.2
)
