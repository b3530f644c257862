package testdb

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/store"
)

func TestMain(m *testing.M) { Main(m) }

// A copy has what migrations make: another look at it by them finds nothing to do and nothing missing.
func TestACopyIsWhatMigrationsMake(t *testing.T) {
	owner, dsn := Schema(t)
	made, _, err := server.Schema(t.Context(), "made")
	require.NoError(t, err)
	t.Cleanup(func() { drop(t, "made") })
	require.NoError(t, store.Migrate(t.Context(), made, dsn))
	require.NoError(t, store.Migrate(t.Context(), owner, dsn))
	for what, question := range map[string]string{
		"columns": "SELECT GROUP_CONCAT(table_name, '.', column_name, ' ', column_type, ' ', COALESCE(column_default, '-'), ' ', COALESCE(collation_name, '-'), ' ', is_nullable ORDER BY table_name, ordinal_position) FROM information_schema.columns WHERE table_schema = DATABASE()",
		"keys":    "SELECT GROUP_CONCAT(table_name, '.', index_name, ' ', column_name, ' ', non_unique ORDER BY table_name, index_name, seq_in_index) FROM information_schema.statistics WHERE table_schema = DATABASE()",
		"guards":  "SELECT COUNT(*) FROM cabinet_guards",
		"steps":   "SELECT GROUP_CONCAT(version_id ORDER BY id) FROM goose_db_version",
	} {
		want, err := one(t.Context(), made, question)
		require.NoError(t, err)
		got, err := one(t.Context(), owner, question)
		require.NoError(t, err)
		assert.NotEmpty(t, want)
		assert.Equal(t, want, got, what)
	}
	rights := "SELECT GROUP_CONCAT(table_name, ' ', privilege_type ORDER BY table_name, privilege_type) FROM information_schema.table_privileges WHERE table_schema = ?"
	root := Root(t)
	var want, got string
	require.NoError(t, root.QueryRow(rights, "made").Scan(&want))
	require.NotEmpty(t, want)
	require.NoError(t, root.QueryRow(rights, schemaOf(t, owner)).Scan(&got))
	assert.Equal(t, want, got)
}

func schemaOf(t *testing.T, dsn string) string {
	t.Helper()
	name, err := one(t.Context(), dsn, "SELECT DATABASE()")
	require.NoError(t, err)
	return name
}
