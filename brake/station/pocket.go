package station

import (
	"encoding/json"

	"geminate/brake/motion"
	"geminate/brake/photo"
	"geminate/brake/strict"
)

// Tool is what a phone in the pocket works out, of no job.
type Tool struct {
	// Name is the end of its address, ID its name in the API.
	Name, ID, Summary string
	In, Out           any
	use               func(raw json.RawMessage) (any, error)
}

// Use works it out, from its input as JSON. What gives no figure is a *strict.Refused.
func (t *Tool) Use(in json.RawMessage) (any, error) { return t.use(in) }

func tool[In, Out any](name, id, summary string, use func(In) (Out, error)) Tool {
	var in In
	var out Out
	return Tool{
		Name:    name,
		ID:      id,
		Summary: summary,
		In:      in,
		Out:     out,
		use: func(raw json.RawMessage) (any, error) {
			var in In
			if err := strict.Decode(raw, &in); err != nil {
				return nil, err
			}
			return use(in)
		},
	}
}

// Pocket are all of them.
var Pocket = []Tool{
	tool("photo", "onPhoto", "Measure on a photo, from what was tapped and the edges found", photo.Measure),
	tool("tilt", "tilt", "How a thing lies, by a phone laid along it", motion.TiltOf),
	tool("travel", "travel", "A pedal's travel, by a phone on its arm", motion.TravelOf),
	tool("stop", "stop", "A stop, by a phone in its mount", motion.StopOf),
}

// FindTool gives the one of a name, nil where there is none.
func FindTool(name string) *Tool {
	for i := range Pocket {
		if Pocket[i].Name == name {
			return &Pocket[i]
		}
	}
	return nil
}
