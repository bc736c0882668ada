package e2e

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"
)

// TestMessagesArrive: in the demo's outside world a mail arrives for a run of which somebody ticked that they want one, though they never want any else; and the webhook is told.
func TestMessagesArrive(t *testing.T) {
	if os.Getenv("AMBROSA_PROVE") == "" {
		t.Skip("make prove sets AMBROSA_PROVE: it draws the demo world")
	}
	p := demo(t)
	ines := signIn(t, p.url(), "ines", "kites-over-pellmoor")
	ines.do("PUT", "/api/session/mail", map[string]string{"address": "ines@pellmoorkites.example", "tells": "never"}, nil)
	arrived := func() string {
		answer, err := http.Get(p.url() + "/outside")
		if err != nil {
			t.Fatal(err)
		}
		defer answer.Body.Close()
		b, err := io.ReadAll(answer.Body)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	var channels []struct {
		ID   int64
		Name string
		Plan int64
	}
	ines.do("GET", "/api/channels", nil, &channels)
	var r id
	for _, c := range channels {
		if strings.HasPrefix(c.Name, "Shop floor") {
			ines.do("POST", fmt.Sprintf("/api/plans/%d/apply?mail=true", c.Plan), nil, &r)
		}
	}
	if done := ines.finished(r.ID); done.Applied == 0 {
		t.Fatalf("%+v", done)
	}
	await(t, time.Minute, "the mail and the webhook", func() bool {
		page := arrived()
		return strings.Contains(page, "ines@pellmoorkites.example") && strings.Contains(page, "Run “Shop floor, folder” is done") && strings.Contains(page, "the signature is right") &&
			!strings.Contains(page, "the signature is wrong")
	})
}
