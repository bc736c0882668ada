package gather

import "testing"

func TestClimbsOut(t *testing.T) {
	for path, out := range map[string]bool{"../x": true, "a/../../x": true, "/etc/x": true, "C:/x": true, "a/b..c": false, "a/..b": false} {
		if climbsOut(path) != out {
			t.Errorf("climbsOut(%q) is not %v", path, out)
		}
	}
}
