/* Kernels of looks in plain C: what the compiled ones are measured against. */
#include <math.h>
#include <stdint.h>
#include <string.h>
#include <string.h>

/* Points and normals of `count` pieces of one shape of `many` points. */
void pieces(int64_t count, int64_t many, const float *places, const float *turns, const float *sizes,
            const float *points, const float *normals, float *out, float *out_normals, int threads) {
#pragma omp parallel for num_threads(threads)
    for (int64_t n = 0; n < count; n++) {
        const float *t = turns + 9 * n, *p = places + 3 * n;
        for (int64_t v = 0; v < many; v++) {
            const float *a = points + 3 * v, *b = normals + 3 * v;
            float *o = out + 3 * (n * many + v), *q = out_normals + 3 * (n * many + v);
            for (int k = 0; k < 3; k++) {
                o[k] = p[k] + sizes[n] * (t[3 * k] * a[0] + t[3 * k + 1] * a[1] + t[3 * k + 2] * a[2]);
                q[k] = t[3 * k] * b[0] + t[3 * k + 1] * b[1] + t[3 * k + 2] * b[2];
            }
        }
    }
}

static float taper(float along, float head, float tail) {
    float one = head > 0 ? fminf(along / head, 1) : 1, two = tail > 0 ? fminf((1 - along) / tail, 1) : 1;
    return one * (2 - one) * two * (2 - two);
}

/* Bands that face the camera, through ribbons' points: two corners for each place along them. */
void ribbons(int64_t count, const int32_t *starts, const float *points, const float *widths, const float *colours,
             const float *eye, const float *ahead, float focal, int64_t fine, const float *shape, float *out,
             float *tints, float *uvs, int threads) {
#pragma omp parallel for num_threads(threads)
    for (int64_t r = 0; r < count; r++) {
        int64_t first = starts[r], last = starts[r + 1] - 1, rows = (last - first) * fine + 1;
        int64_t corner = 2 * (first * fine - r * (fine - 1));
        float way[rows][6], lengths[rows], length = 0, s[3] = {1, 0, 0};
        for (int64_t j = 0; j < rows; j++) {
            int64_t i = first + j / fine, most = last - 1 > first ? last - 1 : first;
            i = i < most ? i : most;
            float t = (float)(j - (i - first) * fine) / (float)fine, apart = 0;
            const float *b = points + 3 * i, *c = points + 3 * (i + 1 < last ? i + 1 : last);
            const float *a = points + 3 * (i - 1 > first ? i - 1 : first), *d = points + 3 * (i + 2 < last ? i + 2 : last);
            for (int k = 0; k < 3; k++) apart += (c[k] - b[k]) * (c[k] - b[k]);
            for (int k = 0; k < 3; k++) {
                float back = i == first ? 2 * b[k] - c[k] : a[k], on = i + 1 >= last ? 2 * c[k] - b[k] : d[k];
                float p = 0.5f * (c[k] - back), q = 0.5f * (on - b[k]);
                float e = 3 * (c[k] - b[k]) - 2 * p - q, f = 2 * (b[k] - c[k]) + p + q;
                way[j][k] = apart < 1e-9f ? b[k] : b[k] + t * (p + t * (e + t * f));
                way[j][3 + k] = apart < 1e-9f ? b[k] - a[k] : p + t * (2 * e + 3 * t * f);
            }
            if (j > 0) {
                float x = way[j][0] - way[j - 1][0], y = way[j][1] - way[j - 1][1], z = way[j][2] - way[j - 1][2];
                length += sqrtf(x * x + y * y + z * z);
            }
            lengths[j] = length;
        }
        float per = 1 / fmaxf(length, 1e-9f);
        for (int64_t j = 0; j < rows; j++) {
            int64_t i = first + j / fine, most = last - 1 > first ? last - 1 : first;
            i = i < most ? i : most;
            float t = (float)(j - (i - first) * fine) / (float)fine, along = lengths[j] * per, *w = way[j];
            int64_t after = i + 1 < last ? i + 1 : last;
            float width = widths[i] + t * (widths[after] - widths[i]);
            float opacity = colours[4 * i + 3] + t * (colours[4 * after + 3] - colours[4 * i + 3]);
            width *= taper(along, shape[0], shape[1]);
            float v[3] = {w[0] - eye[0], w[1] - eye[1], w[2] - eye[2]};
            float c[3] = {w[4] * v[2] - w[5] * v[1], w[5] * v[0] - w[3] * v[2], w[3] * v[1] - w[4] * v[0]};
            float across = sqrtf(c[0] * c[0] + c[1] * c[1] + c[2] * c[2]);
            if (across > 1e-9f) {
                float unit = (j == 0 || c[0] * s[0] + c[1] * s[1] + c[2] * s[2] >= 0 ? 1 : -1) / across;
                for (int k = 0; k < 3; k++) s[k] = c[k] * unit;
            }
            float deep = fmaxf(v[0] * ahead[0] + v[1] * ahead[1] + v[2] * ahead[2], 1e-9f);
            float half = width * 0.5f, least = 0.75f * deep / focal;
            if (half < least) {
                opacity *= half / least;
                half = least;
            }
            float along_v = shape[2] > 0 ? (lengths[j] - shape[3]) / shape[2] : along;
            for (int edge = 0; edge < 2; edge++) {
                int64_t at = corner + 2 * j + edge;
                for (int k = 0; k < 3; k++) {
                    out[3 * at + k] = w[k] + (edge ? half : -half) * s[k];
                    tints[4 * at + k] = colours[4 * i + k] + t * (colours[4 * after + k] - colours[4 * i + k]);
                }
                tints[4 * at + 3] = fminf(opacity, 1);
                uvs[2 * at] = edge;
                uvs[2 * at + 1] = along_v;
            }
        }
    }
}

/* Facets of 32 numbers, 3 whole ones and a box of 6 each; all of them are near enough and may be seen. */
void facets(int64_t count, const int32_t *corners, const float *points, const float *tints, const float *uvs,
            const float *eye, const float *basis, float focal, float width, float height, float soft, int64_t levels,
            const int32_t *level, int flags, float *out, int32_t *skins, float *boxes, int threads) {
#pragma omp parallel for num_threads(threads)
    for (int64_t f = 0; f < count; f++) {
        float seen[3][3], *o = out + 32 * f, *box = boxes + 6 * f;
        int hidden = 0, dark = 1;
        box[5] = 0;
        for (int k = 0; k < 3; k++) {
            const float *p = points + 3 * corners[3 * f + k];
            float x = p[0] - eye[0], y = p[1] - eye[1], z = p[2] - eye[2];
            float ahead = x * basis[6] + y * basis[7] + z * basis[8];
            if (!(ahead >= 0.05f && ahead <= 1e6f)) { hidden = 1; break; }
            float inverse = 1 / ahead;
            float right = (x * basis[0] + y * basis[1] + z * basis[2]) * inverse * focal;
            float up = (x * basis[3] + y * basis[4] + z * basis[5]) * inverse * focal;
            hidden = hidden || !(fabsf(right) < 1e6f && fabsf(up) < 1e6f);
            dark = dark && !(tints[4 * corners[3 * f + k] + 3] > 1e-4f);
            seen[k][0] = width * 0.5f + right;
            seen[k][1] = height * 0.5f - up;
            seen[k][2] = inverse;
        }
        if (hidden || dark) continue;
        float ax = seen[0][0], ay = seen[0][1];
        float bx = seen[1][0] - ax, by = seen[1][1] - ay, qx = seen[2][0] - ax, qy = seen[2][1] - ay;
        float area = bx * qy - qx * by;
        float left = ax + fminf(fminf(bx, qx), 0), right = ax + fmaxf(fmaxf(bx, qx), 0);
        float top = ay + fminf(fminf(by, qy), 0), bottom = ay + fmaxf(fmaxf(by, qy), 0);
        if (!(fabsf(area) > 1e-4f) || right < 0 || left > width || bottom < 0 || top > height) continue;
        float scale = 1 / area;
        o[0] = left; o[1] = right; o[2] = top; o[3] = bottom; o[4] = ax; o[5] = ay;
        o[6] = qy * scale; o[7] = -qx * scale; o[8] = -by * scale; o[9] = bx * scale;
        const int32_t *c = corners + 3 * f;
        for (int k = 0; k < 3; k++) o[10 + k] = seen[k][2];
        for (int k = 0; k < 2; k++) {
            o[13 + 3 * k] = uvs[2 * c[0] + k];
            o[14 + 3 * k] = uvs[2 * c[1] + k] - uvs[2 * c[0] + k];
            o[15 + 3 * k] = uvs[2 * c[2] + k] - uvs[2 * c[0] + k];
        }
        for (int k = 0; k < 4; k++) {
            float t[3];
            for (int n = 0; n < 3; n++) {
                t[n] = tints[4 * c[n] + 3] * (k < 3 ? tints[4 * c[n] + k] : 1);
                if (k == 3 && (flags & 1)) t[n] = 0;
            }
            o[19 + 3 * k] = t[0] / 65535;
            o[20 + 3 * k] = (t[1] - t[0]) / 65535;
            o[21 + 3 * k] = (t[2] - t[0]) / 65535;
        }
        o[31] = 1 / fmaxf(soft, 1e-4f);
        float side = level[1], dense = fabsf(o[14] * o[18] - o[15] * o[17]) * side * side / fabsf(area);
        int64_t n = 0;
        while (n + 1 < levels && dense > 1.7f * 1.7f) { n++; dense *= 0.25f; }
        skins[3 * f] = level[2 * n]; skins[3 * f + 1] = level[2 * n + 1]; skins[3 * f + 2] = flags;
        box[0] = left; box[1] = right; box[2] = top; box[3] = bottom;
        box[4] = fmaxf(fmaxf(seen[0][2], seen[1][2]), seen[2][2]);
        box[5] = (seen[0][2] + seen[1][2] + seen[2][2]) / 3;
    }
}

/* A patch of planes at twice its height and width. */
void doubled(int64_t planes, int64_t high, int64_t wide, const float *source, int64_t pitch, float *out, int threads) {
    int64_t end = wide < pitch / 2 ? wide : pitch / 2;
#pragma omp parallel for num_threads(threads)
    for (int64_t y = 0; y < 2 * high; y++) {
        float mixed[wide + 2];
        int64_t row = y / 2, other = y & 1 ? row + 1 : row - 1;
        mixed[0] = mixed[wide + 1] = 0;
        for (int64_t p = 0; p < planes; p++) {
            const float *here = source + (p * high + row) * wide, *there = source + (p * high + other) * wide;
            float *o = out + (p * 2 * high + y) * pitch;
            if (other >= 0 && other < high)
                for (int64_t x = 0; x < wide; x++) mixed[x + 1] = here[x] * 0.75f + there[x] * 0.25f;
            else
                for (int64_t x = 0; x < wide; x++) mixed[x + 1] = here[x] * 0.75f;
            for (int64_t x = 0; x < end; x++) {
                o[2 * x] = mixed[x + 1] * 0.75f + mixed[x] * 0.25f;
                o[2 * x + 1] = mixed[x + 1] * 0.75f + mixed[x + 2] * 0.25f;
            }
            for (int64_t x = 2 * end; x < pitch; x++) o[x] = 0;
        }
    }
}

/* The picture (3, high, wide) bent where a patch says so; `source` receives how it was, from a corner on. */
void bend(float *source, int64_t sh, int64_t sw, const int32_t *corner, const float *patch, int64_t rows,
          int64_t pitch, const int32_t *box, int64_t step, float *picture, int64_t high, int64_t wide, int threads) {
    int64_t top = box[1] * step, left = box[0] * step, plane = rows * pitch;
    int64_t bottom = box[3] * step < high ? box[3] * step : high, right = box[2] * step < wide ? box[2] * step : wide;
#pragma omp parallel for num_threads(threads)
    for (int64_t y = 0; y < sh; y++)
        for (int c = 0; c < 3; c++)
            memcpy(source + (c * sh + y) * sw, picture + (c * high + corner[1] + y) * wide + corner[0], sw * 4);
#pragma omp parallel for num_threads(threads)
    for (int64_t y = top; y < bottom; y++) {
        const float *px = patch + 4 * plane + ((y - top) / step) * pitch, *py = px + plane;
        for (int64_t x = left; x < right; x++) {
            int64_t column = x / step - box[0];
            float by_x = px[column] * step, by_y = py[column] * step;
            if (by_x == 0 && by_y == 0) continue;
            float sx = fminf(fmaxf((float)(x - corner[0]) + by_x, 0), (float)(sw - 1));
            float sy = fminf(fmaxf((float)(y - corner[1]) + by_y, 0), (float)(sh - 1));
            int64_t x0 = (int64_t)sx < sw - 2 ? (int64_t)sx : sw - 2, y0 = (int64_t)sy < sh - 2 ? (int64_t)sy : sh - 2;
            float fx = sx - x0, fy = sy - y0;
            for (int c = 0; c < 3; c++) {
                const float *s = source + (c * sh + y0) * sw + x0;
                float upper = s[0] * (1 - fx) + s[1] * fx, lower = s[sw] * (1 - fx) + s[sw + 1] * fx;
                picture[(c * high + y) * wide + x] = upper + (lower - upper) * fy;
            }
        }
    }
}
