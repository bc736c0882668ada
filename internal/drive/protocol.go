package drive

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"

	"github.com/rclone/rclone/fs"
)

// Protocol is one way to speak to a drive, and what it needs to be told.
type Protocol struct {
	Kind   string // the library's name of the backend
	Name   string
	Cloud  bool // it is reached at hosts of the provider's own choice
	Fields []Field
}

// Field is one thing that a backend needs to be told, as the backend says.
type Field struct {
	Name     string
	Help     string // its first sentence
	Required bool
	Secret   bool
	Default  string
	Choices  []string
}

// protocols are those that are built in: another is an import in drive.go and a line here. Wanted are fields beside the usual ones that the
// backend has for experts; left out are those that say nothing for reading.
var protocols = []struct {
	kind, name      string
	cloud           bool
	wanted, leftOut string
}{
	{kind: "webdav", name: "WebDAV"},
	{kind: "sftp", name: "SFTP"},
	{kind: "smb", name: "SMB", leftOut: "spn"},
	{kind: "ftp", name: "FTP"},
	{kind: "s3", name: "S3", wanted: "force_path_style", leftOut: "location_constraint acl server_side_encryption sse_kms_key_id storage_class ibm_api_key " +
		"ibm_resource_instance_id bucket_object_lock_enabled"},
	{kind: "http", name: "HTTP", leftOut: "no_escape"},
	{kind: "local", name: "Folder of the server"},
	{kind: "drive", name: "Google Drive", cloud: true, wanted: "token root_folder_id team_drive", leftOut: "alternate_export"},
	{kind: "onedrive", name: "OneDrive", cloud: true, wanted: "token drive_id drive_type"},
	{kind: "dropbox", name: "Dropbox", cloud: true, wanted: "token"},
}

// unsafe are options that would read files, run programs or use credentials of the server, or lead past its door.
var unsafe = regexp.MustCompile(`_file|file_|command|proxy|agent|kerberos|env_auth|insecure|^ssh$|profile|socket|hashcheck|pubkey`)

// secret are options that are kept as secrets beside those that the backend calls passwords.
var secretNames = regexp.MustCompile(`secret|token|pem`)

// Protocols are the ways that are built in. They are shared: nobody changes them.
var Protocols = sync.OnceValue(func() []Protocol {
	all := make([]Protocol, 0, len(protocols))
	for _, p := range protocols {
		info, err := fs.Find(p.kind)
		if err != nil {
			continue // not built in
		}
		one := Protocol{Kind: p.kind, Name: p.name, Cloud: p.cloud}
		wanted, leftOut := strings.Fields(p.wanted), strings.Fields(p.leftOut)
		for _, o := range info.Options {
			known := slices.ContainsFunc(one.Fields, func(f Field) bool { return f.Name == o.Name })
			if known || o.Hide != 0 || unsafe.MatchString(o.Name) || slices.Contains(leftOut, o.Name) || o.Advanced && !slices.Contains(wanted, o.Name) {
				continue
			}
			one.Fields = append(one.Fields, fieldOf(o))
		}
		all = append(all, one)
	}
	return all
})

// mostChoices is how many values of a field are offered; of more it is typed.
const mostChoices = 20

func fieldOf(o fs.Option) Field {
	help, _, _ := strings.Cut(o.Help, "\n")
	f := Field{Name: o.Name, Help: strings.TrimSpace(help), Required: o.Required || o.Name == "token", Secret: o.IsPassword || secretNames.MatchString(o.Name)}
	if d := fmt.Sprint(o.Default); o.Default != nil && d != "root" && d != "[]" {
		f.Default = d
	}
	if len(o.Examples) <= mostChoices {
		for _, e := range o.Examples {
			f.Choices = append(f.Choices, e.Value)
		}
	}
	return f
}

// ProtocolOf finds one by its kind.
func ProtocolOf(kind string) (Protocol, bool) {
	all := Protocols()
	at := slices.IndexFunc(all, func(p Protocol) bool { return p.Kind == kind })
	if at < 0 {
		return Protocol{}, false
	}
	return all[at], true
}
