package cli

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/testkit/notice"
)

func TestAKindOfItsOwnIsListed(t *testing.T) {
	made := (&app{}).listings(program.Kinds{notice.Kind})
	require.Len(t, made, 1)
	assert.Equal(t, "notices TRACKER", made[0].Use)
	assert.Equal(t, "List a tracker's notices", made[0].Short)
}
