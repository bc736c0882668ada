// What Debian's libzxing reads, for Go. ReadBarcodes (all of a picture) of libzxing 1.4.0 ends the process by an assertion on ordinary
// pictures, so only ReadBarcode is called.
#define ZX_USE_UTF8
#include <ZXing/ReadBarcode.h>

#include <cstring>

#include "shim.h"

using ZXing::BarcodeFormat;

// In the order of symbol.Formats.
static constexpr BarcodeFormat formatsOf[] = {BarcodeFormat::EAN13, BarcodeFormat::EAN8, BarcodeFormat::UPCA, BarcodeFormat::UPCE,
                                              BarcodeFormat::ITF, BarcodeFormat::Code128, BarcodeFormat::QRCode, BarcodeFormat::DataMatrix};
static constexpr int formatCount = sizeof formatsOf / sizeof *formatsOf;

template <typename Bytes> static int put(symbol *out, const Bytes &bytes)
{
	if (bytes.size() == 0 || bytes.size() > SYMBOL_TEXT)
		return 0;
	std::memcpy(out->text, bytes.data(), bytes.size());
	out->bytes = static_cast<int>(bytes.size());
	return 1;
}

extern "C" int symbols_first(const uint8_t *grey, int width, int height, int stride, int formats, int global, int lines, symbol *out)
{
	try {
		ZXing::BarcodeFormats wanted;
		for (int i = 0; i < formatCount; i++)
			if (formats & (1 << i))
				wanted |= formatsOf[i];
		ZXing::DecodeHints hints;
		hints.setFormats(wanted).setTryHarder(true).setTryRotate(true).setTryDownscale(false).setValidateITFCheckSum(true).setMinLineCount(lines);
		if (global)
			hints.setBinarizer(ZXing::Binarizer::GlobalHistogram);
		auto found = ZXing::ReadBarcode(ZXing::ImageView(grey, width, height, ZXing::ImageFormat::Lum, stride), hints);
		out->format = -1;
		for (int i = 0; i < formatCount && found.isValid(); i++)
			if (found.format() == formatsOf[i])
				out->format = i;
		if (out->format < 0)
			return 0;
		out->gs1 = found.contentType() == ZXing::ContentType::GS1;
		for (int i = 0; i < 4; i++) {
			out->x[i] = found.position()[i].x;
			out->y[i] = found.position()[i].y;
		}
		out->lines = found.lineCount();
		return found.contentType() == ZXing::ContentType::Text ? put(out, found.text()) : put(out, found.bytes());
	} catch (...) {
		return -1;
	}
}
