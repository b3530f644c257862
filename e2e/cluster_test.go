package e2e

import (
	"fmt"
	"net"
	"os"
	"os/user"
	"path/filepath"
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/wire"
)

// node is one member of a Galera cluster on loopback.
type node struct {
	o  dbserver.Options
	db *dbserver.Server
}

func freePorts(t *testing.T, n int) []int {
	t.Helper()
	var out []int
	for range n {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		defer l.Close()
		out = append(out, l.Addr().(*net.TCPAddr).Port)
	}
	return out
}

// clusterNode prepares a node; the first one weighs more, so that it goes on alone when the other is killed.
func clusterNode(t *testing.T, name string, weight int, ports []int, peers string) *node {
	t.Helper()
	n := &node{o: dbserver.Options{Dir: filepath.Join(scratch, name), Port: ports[0]}}
	require.NoError(t, os.MkdirAll(n.o.Dir, 0o755))
	if os.Getuid() == 0 { // a state transfer by rsync does not work as root
		n.o.User = "mysql"
		who, err := user.Lookup("mysql")
		require.NoError(t, err)
		uid, _ := strconv.Atoi(who.Uid)
		gid, _ := strconv.Atoi(who.Gid)
		require.NoError(t, os.Chown(n.o.Dir, uid, gid))
	}
	n.o.Extra = []string{"--wsrep-on=ON", "--wsrep-provider=/usr/lib/galera/libgalera_smm.so", "--wsrep-cluster-name=" + filepath.Base(scratch), "--binlog-format=ROW",
		"--default-storage-engine=InnoDB", "--innodb-autoinc-lock-mode=2", "--wsrep-slave-threads=2", "--wsrep-node-name=" + name, "--wsrep-node-address=127.0.0.1",
		"--wsrep-sst-method=rsync", fmt.Sprintf("--wsrep-sst-receive-address=127.0.0.1:%d", ports[3]), "--innodb-flush-log-at-trx-commit=2", "--innodb-buffer-pool-size=256M",
		fmt.Sprintf("--wsrep-provider-options=gmcast.listen_addr=tcp://127.0.0.1:%d;ist.recv_addr=127.0.0.1:%d;pc.weight=%d;gcache.size=128M", ports[1], ports[2], weight),
		"--wsrep-cluster-address=gcomm://" + peers}
	return n
}

func (n *node) start(t *testing.T, extra ...string) {
	t.Helper()
	o := n.o
	o.Extra = append(append([]string{}, o.Extra...), extra...)
	db, err := dbserver.Start(t.Context(), o)
	require.NoError(t, err)
	n.db = db
}

func TestTwoInstancesOnTwoNodesOfACluster(t *testing.T) {
	t.Parallel() // it waits more than it works
	pa, pb := freePorts(t, 4), freePorts(t, 4)
	peers := fmt.Sprintf("127.0.0.1:%d,127.0.0.1:%d", pa[1], pb[1])
	a, b := clusterNode(t, "node-a", 3, pa, peers), clusterNode(t, "node-b", 1, pb, peers)
	a.start(t, "--wsrep-new-cluster")
	defer func() { a.db.Stop() }()
	secrets, err := os.ReadFile(filepath.Join(a.o.Dir, "accounts.json"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(b.o.Dir, "accounts.json"), secrets, 0o600)) // the cluster has one set of accounts
	b.start(t)
	defer func() { b.db.Stop() }()

	ownerA, dsnA := a.db.DSNs()
	_, dsnB := b.db.DSNs()
	one, two := serve(t, ownerA, dsnA), serve(t, ownerA, dsnB)
	ka := one.admin(t)
	stocked(t, ka)
	kb := client.New(two.url, ka.Token)

	// Both take part numbers at once: none is given twice.
	var mu sync.Mutex
	numbers := map[string]string{}
	var wg sync.WaitGroup
	each := func(fn func(k *client.Client, side int)) {
		for side, k := range []*client.Client{ka, kb} {
			wg.Add(1)
			go func() {
				defer wg.Done()
				fn(k, side)
			}()
		}
		wg.Wait()
	}
	each(func(k *client.Client, side int) {
		for n := range 25 {
			p, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "1k", "tolerance": "1%", "case": "0805"},
				Sources: []part.Source{{Manufacturer: "Tidewright", MPN: fmt.Sprintf("GAL-%d-%d", side, n)}}})
			if !assert.NoError(t, err) {
				return
			}
			mu.Lock()
			assert.Empty(t, numbers[p.Number], "%s was given twice", p.Number)
			numbers[p.Number] = p.ID
			mu.Unlock()
		}
	})
	assert.Len(t, numbers, 50)

	// Both make the part with one MPN: one of them is told that it is there.
	var won, refused int
	each(func(k *client.Client, _ int) {
		_, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "1k"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "GAL-SAME"}}})
		mu.Lock()
		defer mu.Unlock()
		if err == nil {
			won++
		} else {
			refused++
			assert.ErrorContains(t, err, "is in the library as")
		}
	})
	assert.Equal(t, []int{1, 1}, []int{won, refused})

	// Both edit one part, each from what it saw: no edit is lost without a word.
	edited, err := ka.Part(t.Context(), "EW-R-00001")
	require.NoError(t, err)
	saves := 0
	each(func(k *client.Client, side int) {
		for n := range 10 {
			p, err := k.Part(t.Context(), edited.ID)
			if !assert.NoError(t, err) {
				return
			}
			e := p.Newest().Edit()
			e.Values["power"] = fmt.Sprintf("%d mW", 100+100*side+n)
			if _, err := k.SaveDraft(t.Context(), p.ID, p.Version, e); err == nil {
				mu.Lock()
				saves++
				mu.Unlock()
			} else {
				assert.ErrorContains(t, err, "meanwhile")
			}
		}
	})
	now, err := kb.Part(t.Context(), edited.ID)
	require.NoError(t, err)
	assert.Equal(t, edited.Version+saves, now.Version, "every edit that was accepted moved the version by one")

	// Both take in the same file at once: everything comes in once.
	text := resistors("GALFILE", 3000)
	ia, err := openIntake(t, ka, "Marsh Lane Components", "a.csv", text)
	require.NoError(t, err)
	ib, err := openIntake(t, kb, "Marsh Lane Components", "b.csv", text)
	require.NoError(t, err)
	done := 0
	each(func(k *client.Client, side int) {
		i := []wire.Intake{ia, ib}[side]
		j, err := k.TakeIn(t.Context(), i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest})
		if err == nil {
			j, err = k.WaitJob(t.Context(), j.ID, nil)
		}
		mu.Lock()
		defer mu.Unlock()
		if err == nil && j.TakenIn != nil {
			done++
		}
	})
	assert.Equal(t, 1, done, "one of the two is refused, because its preview is stale")
	found := func(k *client.Client, word string, total int) {
		t.Helper()
		var l wire.PartList
		assert.Eventually(t, func() bool {
			l, err = k.Parts(t.Context(), client.PartQuery{Text: word, Limit: 1})
			return err == nil && l.Page.Total == total
		}, time.Minute, 50*time.Millisecond, "%s: %d found, %v", word, l.Page.Total, err)
	}
	found(ka, "GALFILE", 3000)
	found(kb, "GALFILE", 3000)

	// Both release the same drafts at once: each part gets one revision, and each instance finds it.
	var bases []wire.PartBase
	for _, id := range numbers {
		p, err := ka.Part(t.Context(), id)
		require.NoError(t, err)
		bases = append(bases, wire.PartBase{ID: p.ID, Version: p.Version})
	}
	released := 0
	each(func(k *client.Client, _ int) {
		r, err := k.ReleaseMany(t.Context(), wire.BulkRelease{Note: "both at once", Parts: bases})
		mu.Lock()
		defer mu.Unlock()
		if err == nil {
			released += r.Parts
		}
	})
	assert.Equal(t, 50, released)
	for _, k := range []*client.Client{ka, kb} {
		assert.Eventually(t, func() bool {
			l, err := k.Parts(t.Context(), client.PartQuery{Status: []string{"released"}, Limit: 1})
			return err == nil && l.Page.Total == 50
		}, time.Minute, 50*time.Millisecond)
	}

	// One node is killed: the other goes on; what it made is there when the node has come back.
	b.db.Kill()
	var made wire.Part
	require.Eventually(t, func() bool {
		made, err = ka.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "2k"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "GAL-ALONE"}}})
		return err == nil
	}, 2*time.Minute, 200*time.Millisecond, "the surviving node does not take changes: %v", err)
	b.start(t)
	require.Eventually(t, func() bool {
		p, err := kb.Part(t.Context(), made.Number)
		return err == nil && p.ID == made.ID
	}, 2*time.Minute, 200*time.Millisecond)
	found(kb, "GAL-ALONE", 1)
	for _, k := range []*client.Client{ka, kb} {
		var v wire.Verification
		require.Eventually(t, func() bool { // a node that has just come back may still be asked to try again
			v, err = k.Verify(t.Context())
			return err == nil
		}, 2*time.Minute, 200*time.Millisecond, "%v", err)
		assert.Empty(t, v.Different)
	}
}
