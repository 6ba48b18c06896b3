package page

import (
	"net/http/httptest"
	"strings"
	"testing"
)

func TestThePageTellsOfCones(t *testing.T) {
	answer := httptest.NewRecorder()
	Handler().ServeHTTP(answer, httptest.NewRequest("GET", "/pages/", nil))
	if answer.Code != 200 || !strings.Contains(answer.Body.String(), "Cone 6") {
		t.Errorf("%d: %s", answer.Code, answer.Body)
	}
}
