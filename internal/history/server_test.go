package history

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"fmt"
	"math/big"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

const password = "s3al-and-tide"

// server starts a PostgreSQL server of its own, which speaks TLS, and gives the URL of a
// database in it and the file of the certificate. Where there is no PostgreSQL the test is
// skipped, unless in CI.
func server(t *testing.T) (where, certificate string) {
	bin := programs()
	if bin == "" {
		if os.Getenv("CI") != "" {
			t.Fatal("there is no PostgreSQL here")
		}
		t.Skip("there is no PostgreSQL here")
	}
	dir, err := os.MkdirTemp("", "thrush-pg-*")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	as := somebody(t, dir)
	run := func(args ...string) {
		cmd := exec.Command(filepath.Join(bin, args[0]), args[1:]...)
		cmd.Dir, cmd.SysProcAttr = dir, as
		cmd.Env = append(os.Environ(), "LC_ALL=C")
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	secret, data := filepath.Join(dir, "secret"), filepath.Join(dir, "data")
	require.NoError(t, os.WriteFile(secret, []byte(password), 0o644))
	run("initdb", "-D", data, "-U", "skerry", "-A", "scram-sha-256", "--pwfile", secret, "-N")
	certificate = certify(t, data, as)
	listen, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	port := listen.Addr().(*net.TCPAddr).Port
	require.NoError(t, listen.Close())
	run("pg_ctl", "-D", data, "-w", "-l", filepath.Join(dir, "log"), "-o",
		fmt.Sprintf("-p %d -k %s -c listen_addresses=127.0.0.1 -c ssl=on -c fsync=off -c max_connections=100", port, dir), "start")
	t.Cleanup(func() { run("pg_ctl", "-D", data, "-m", "immediate", "stop") })
	return fmt.Sprintf("postgres://skerry:%s@127.0.0.1:%d/postgres", password, port), certificate
}

// programs is the folder with the server's programs.
func programs() string {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pg_ctl")
	if len(found) > 0 {
		return filepath.Dir(found[len(found)-1])
	}
	if path, err := exec.LookPath("pg_ctl"); err == nil {
		return filepath.Dir(path)
	}
	return ""
}

// somebody is who runs the server: not root, which it refuses.
func somebody(t *testing.T, dir string) *syscall.SysProcAttr {
	if os.Getuid() != 0 {
		return nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		u, err = user.Lookup("nobody")
	}
	require.NoError(t, err)
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	require.NoError(t, os.Chown(dir, uid, gid))
	return &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
}

// certify gives the server a certificate for its address.
func certify(t *testing.T, data string, as *syscall.SysProcAttr) string {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	now := time.Now()
	of := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "127.0.0.1"}, IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
		NotBefore: now.Add(-time.Hour), NotAfter: now.Add(time.Hour), IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageCertSign | x509.KeyUsageDigitalSignature}
	der, err := x509.CreateCertificate(rand.Reader, of, of, &key.PublicKey, key)
	require.NoError(t, err)
	private, err := x509.MarshalPKCS8PrivateKey(key)
	require.NoError(t, err)
	for name, block := range map[string]*pem.Block{"server.crt": {Type: "CERTIFICATE", Bytes: der}, "server.key": {Type: "PRIVATE KEY", Bytes: private}} {
		path := filepath.Join(data, name)
		require.NoError(t, os.WriteFile(path, pem.EncodeToMemory(block), 0o600))
		if as != nil {
			require.NoError(t, os.Chown(path, int(as.Credential.Uid), int(as.Credential.Gid)))
		}
	}
	return filepath.Join(data, "server.crt")
}
