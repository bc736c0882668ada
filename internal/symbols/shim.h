#pragma once
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

enum { SYMBOL_TEXT = 4096 };

/* A bar code as a library read it. format is its place among symbol.Formats; corners are in pixels of the image given. */
typedef struct {
	int format;
	int gs1;
	int x[4], y[4];
	int lines; /* by how many lines bars were read; 0 where nobody says */
	int bytes;
	char text[SYMBOL_TEXT];
} symbol;

/* The first bar code of a grey image of eight bits. Returns how many there are: 0 or 1; less than 0 where it fails. */
int symbols_first(const uint8_t *grey, int width, int height, int stride, int formats, int global, int lines, symbol *out);

/* Bar codes of a grey image without gaps between its lines, at most so many. Returns how many there are; less than 0 where it fails. */
int symbols_all(const uint8_t *grey, int width, int height, int density, symbol *out, int most);

#ifdef __cplusplus
}
#endif
