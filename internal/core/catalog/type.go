package catalog

import "strings"

// Type is what a field's values mean to an analyst.
type Type string

// The types.
const (
	Text     Type = "text"
	Whole    Type = "whole"
	Decimal  Type = "decimal"
	Money    Type = "money"
	Percent  Type = "percent" // 12.5 stands for 12.5 %
	Date     Type = "date"
	DateTime Type = "datetime"
	Duration Type = "duration"
	YesNo    Type = "yesno"
	Picture  Type = "picture" // a data: address
)

// TypeInfo describes a type.
type TypeInfo struct {
	Type Type
	// Name is its short name in lists, Word the same with its article, in messages.
	Name, Word string
	// Numeric says that values can be added up, Temporal that they are dates or moments.
	Numeric, Temporal bool
}

var types = []TypeInfo{
	{Type: Text, Name: "text", Word: "text"},
	{Type: Whole, Name: "number", Word: "a whole number", Numeric: true},
	{Type: Decimal, Name: "number", Word: "a number", Numeric: true},
	{Type: Money, Name: "money", Word: "an amount of money", Numeric: true},
	{Type: Percent, Name: "percent", Word: "a percentage", Numeric: true},
	{Type: Date, Name: "date", Word: "a date", Temporal: true},
	{Type: DateTime, Name: "date and time", Word: "a date and time", Temporal: true},
	{Type: Duration, Name: "duration", Word: "a duration", Numeric: true},
	{Type: YesNo, Name: "yes or no", Word: "yes or no"},
	{Type: Picture, Name: "picture", Word: "a picture"},
}

// Types describes all types.
func Types() []TypeInfo { return types }

// Info describes the type; of an unknown one, it says what it says of text.
func (t Type) Info() TypeInfo {
	for _, info := range types {
		if info.Type == t {
			return info
		}
	}
	return types[0]
}

// Numeric says whether values can be added up.
func (t Type) Numeric() bool { return t.Info().Numeric }

// Temporal says whether values are dates or moments.
func (t Type) Temporal() bool { return t.Info().Temporal }

// Word names the type in a message.
func (t Type) Word() string { return t.Info().Word }

// CurrencyCode says whether a text has the form of an ISO 4217 code.
func CurrencyCode(s string) bool {
	return len(s) == 3 && strings.Trim(s, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") == ""
}
