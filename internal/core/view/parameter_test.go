package view

import (
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
)

func TestAnswers(t *testing.T) {
	doc := func() *Document {
		d, err := Parse([]byte(`{"gavrik":1,"records":"claims","columns":[],"filter":{"all":[
			{"field":"status","op":"one_of","values":["Open"],"ask":{"name":"status","label":"Which status?"}},
			{"any":[{"field":"claimed","op":"between","value":"1","to":"2","ask":{"name":"amount","label":"How much?","required":true}},
				{"field":"opened_at","op":"in","period":{"which":"this","unit":"month"},"ask":{"name":"opened","label":"When?"}}]},
			{"field":"ref","op":"contains","value":"7"}]}}`))
		require.NoError(t, err)
		return d
	}
	d := doc()
	require.Len(t, d.Parameters(), 3)
	require.NoError(
		t,
		d.Answer(map[string]string{
			"status": "Settled, Refused", "amount": "10 .. 20.5", "opened": "past 3 months",
		}),
	)
	q := d.Parameters()
	require.Equal(t, Values{"Settled", "Refused"}, q[0].Values)
	require.Equal(t, [2]string{"10", "20.5"}, [2]string{q[1].Value, q[1].To})
	require.Equal(t, calendar.Period{Which: "past", Unit: "month", N: 3}, *q[2].Period)

	d = doc()
	require.NoError(t, d.Answer(map[string]string{"status": "", "amount": " "}))
	require.False(t, d.Parameters()[0].Answered())
	require.False(t, d.Parameters()[1].Answered())
	require.True(t, d.Parameters()[2].Answered(), "what is proposed stays, where nothing is said")

	for name, answers := range map[string]map[string]string{
		`it asks status, amount, opened`: {"route": "x"}, `write it as from..to`: {"amount": "7"},
		`"how" is not a relative period`: {"opened": "how long"}, `write it as "last month"`: {"opened": "lately"},
	} {
		require.ErrorContains(t, doc().Answer(answers), name)
	}
}
