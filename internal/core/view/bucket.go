package view

// Bucket is a field that puts the values of another into named bands. The bands
// keep their order wherever the bucket is used.
type Bucket struct {
	Key   string `json:"key" doc:"Name that the rest of the document uses"`
	Label string `json:"label" doc:"Name for people"`
	Of    string `json:"of" doc:"Path of the field whose values are put into bands"`
	Bands []Band `json:"bands" doc:"The bands in their order; a value goes into the first that fits"`
	Blank string `json:"blank,omitempty" doc:"Label of records without a value; Blank, if left out"`
	Rest  string `json:"rest,omitempty" doc:"Label of values that fit no band; Everything else, if left out"`
}

// Band is one band of a bucket: a range of numbers, dates or durations, or a list
// of texts.
type Band struct {
	Label  string   `json:"label,omitempty" doc:"Name of the band; made from its bounds or values, if left out"`
	From   string   `json:"from,omitempty" doc:"Lower bound, itself included; none, if left out"`
	Below  string   `json:"below,omitempty" doc:"Upper bound, itself left out; none, if left out"`
	Values []string `json:"values,omitempty" doc:"Texts that belong here"`
}
