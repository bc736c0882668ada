package e2e

import enc "encoding/base64"

// base64 is how tus metadata is written.
func base64(s string) string { return enc.StdEncoding.EncodeToString([]byte(s)) }
