package gather

// Problem says what is wrong with an arrival. Those with an asset can be paired all the same.
type Problem string

const (
	TypeDiffers Problem = "type_differs" // a picture, but of another type than its extension says
	NotPicture  Problem = "not_picture"
	Damaged     Problem = "damaged"
	TooLarge    Problem = "too_large"
	Empty       Problem = "empty"
	Litter      Problem = "litter"
	Encrypted   Problem = "encrypted"
	UnsafePath  Problem = "unsafe_path"
	NotArchive  Problem = "not_archive"
	Refused     Problem = "refused" // over a limit
)
