// What Debian's libzbar reads, for Go.
#include <limits.h>
#include <string.h>
#include <zbar.h>

#include "shim.h"

// In the order of symbol.Formats; libzbar reads no DataMatrix.
static const zbar_symbol_type_t types[] = {ZBAR_EAN13, ZBAR_EAN8, ZBAR_UPCA, ZBAR_UPCE, ZBAR_I25, ZBAR_CODE128, ZBAR_QRCODE};
enum { TYPES = sizeof types / sizeof *types };

static int put(const zbar_symbol_t *found, symbol *out)
{
	unsigned bytes = zbar_symbol_get_data_length(found), points = zbar_symbol_get_loc_size(found);
	if (bytes == 0 || bytes > SYMBOL_TEXT || points == 0)
		return 0;
	for (out->format = 0; out->format < TYPES && types[out->format] != zbar_symbol_get_type(found); out->format++)
		;
	if (out->format == TYPES)
		return 0;
	memcpy(out->text, zbar_symbol_get_data(found), bytes);
	out->bytes = (int)bytes;
	out->gs1 = zbar_symbol_get_modifiers(found) >> ZBAR_MOD_GS1 & 1;
	out->lines = zbar_symbol_get_quality(found);
	int left = INT_MAX, top = INT_MAX, right = INT_MIN, bottom = INT_MIN;
	for (unsigned i = 0; i < points; i++) {
		int x = zbar_symbol_get_loc_x(found, i), y = zbar_symbol_get_loc_y(found, i);
		left = x < left ? x : left, right = x > right ? x : right;
		top = y < top ? y : top, bottom = y > bottom ? y : bottom;
	}
	out->x[0] = out->x[3] = left, out->x[1] = out->x[2] = right;
	out->y[0] = out->y[1] = top, out->y[2] = out->y[3] = bottom;
	return 1;
}

int symbols_all(const uint8_t *grey, int width, int height, int every, symbol *out, int most)
{
	zbar_image_scanner_t *scanner = zbar_image_scanner_create();
	zbar_image_t *image = zbar_image_create();
	zbar_image_scanner_set_config(scanner, ZBAR_NONE, ZBAR_CFG_ENABLE, 0);
	for (int i = 0; i < TYPES; i++)
		zbar_image_scanner_set_config(scanner, types[i], ZBAR_CFG_ENABLE, 1);
	zbar_image_scanner_set_config(scanner, ZBAR_NONE, ZBAR_CFG_X_DENSITY, every);
	zbar_image_scanner_set_config(scanner, ZBAR_NONE, ZBAR_CFG_Y_DENSITY, every);
	zbar_image_set_format(image, zbar_fourcc('Y', '8', '0', '0'));
	zbar_image_set_size(image, (unsigned)width, (unsigned)height);
	zbar_image_set_data(image, grey, (unsigned long)width * (unsigned long)height, NULL);
	int n = zbar_scan_image(scanner, image) < 0 ? -1 : 0;
	const zbar_symbol_t *found = n < 0 ? NULL : zbar_image_first_symbol(image);
	for (; found && n < most; found = zbar_symbol_next(found))
		n += put(found, out + n);
	zbar_image_destroy(image);
	zbar_image_scanner_destroy(scanner);
	return n;
}
