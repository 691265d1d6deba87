package service

import (
	"crypto/x509"
	"fmt"
	"os"
)

// trusted gives the certificates that the system trusts, with those of files (PEM); nil
// without files: the system's alone.
func trusted(files []string) (*x509.CertPool, error) {
	if len(files) == 0 {
		return nil, nil
	}
	pool, err := x509.SystemCertPool()
	if err != nil {
		pool = x509.NewCertPool()
	}
	for _, file := range files {
		text, err := os.ReadFile(file) //nolint:gosec // whoever starts the service names it
		if err != nil {
			return nil, fmt.Errorf("reading a certificate to trust: %w", err)
		}
		if !pool.AppendCertsFromPEM(text) {
			return nil, fmt.Errorf("%s holds no certificate in PEM form: it begins with -----BEGIN CERTIFICATE-----", file)
		}
	}
	return pool, nil
}
