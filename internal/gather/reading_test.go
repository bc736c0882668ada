package gather

import (
	"testing"

	"ambrosa/internal/gather/source"
)

func TestClimbsOut(t *testing.T) {
	for path, out := range map[string]bool{"../x": true, "a/../../x": true, "/etc/x": true, "C:/x": true, "a/b..c": false, "a/..b": false} {
		if source.ClimbsOut(path) != out {
			t.Errorf("ClimbsOut(%q) is not %v", path, out)
		}
	}
}
