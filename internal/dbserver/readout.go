package dbserver

import "jollydrawer/core/readout"

// ReaderAccount is whom design tools sign in as.
const ReaderAccount = "jolly_reader"

// ReadoutGrants lists the statements that make the schemas and accounts of the readout on a server of one's own: of the keeper, who
// makes tables and views, and of the reader, whom design tools sign in as.
func ReadoutGrants(schema, service, keeper, reader string) []string {
	rows, views := "`"+readout.RowsOf(schema)+"`", "`"+readout.ViewsOf(schema)+"`"
	return []string{
		"CREATE DATABASE IF NOT EXISTS " + rows + " CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin",
		"CREATE DATABASE IF NOT EXISTS " + views + " CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin",
		"GRANT SELECT, CREATE, DROP, ALTER, INDEX ON " + rows + ".* TO " + keeper,
		"GRANT SELECT, CREATE VIEW, DROP, SHOW VIEW ON " + views + ".* TO " + keeper,
		"GRANT SELECT, INSERT, UPDATE, DELETE ON " + rows + ".* TO " + service,
		"GRANT SELECT ON " + views + ".* TO " + reader,
	}
}

// readout are those of the private server.
func (s *Server) readout(schema string) []string {
	return ReadoutGrants(schema, "jolly_service@'127.0.0.1'", "jolly_keeper@'127.0.0.1'", ReaderAccount+"@'127.0.0.1'")
}

// ReadoutDSNs returns the data source names of the readout's keeper, and of its reader on the views of a schema.
func (s *Server) ReadoutDSNs(schema string) (keeper, reader string) {
	return s.dsn("jolly_keeper", s.accounts.Keeper, schema), s.dsn(ReaderAccount, s.accounts.Reader, readout.ViewsOf(schema))
}
