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
void triangles(int64_t count, const int32_t *corners, const float *points, const float *tints, const float *uvs,
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

static inline float texel(const uint32_t *plane, int64_t at) { return (float)(plane[at] & 0xffffu); }

/* What lies amid four texels of a plane of a level so many wide. */
static inline float amid(const uint32_t *plane, int64_t at, int64_t side, float fx, float fy) {
    float a = texel(plane, at), b = texel(plane, at + 1), c = texel(plane, at + side), d = texel(plane, at + side + 1);
    float top = a + (b - a) * fx, low = c + (d - c) * fx;
    return top + (low - top) * fy;
}

/* Marks on the ground, one after another, where the picture shows it; all of them cover what is under them. */
void marks(float *picture, const float *depth, int64_t high, int64_t wide, const float *eye, const float *basis,
           float focal, int64_t many, const float *mark, const int32_t *spans, const int32_t *picks, int64_t grey,
           int64_t texels, const uint32_t *planes, float horizon, int threads) {
#pragma omp parallel for num_threads(threads) schedule(static, 8)
    for (int64_t y = 0; y < high; y++) {
        float up = (high * 0.5f - y - 0.5f) / focal, slope = basis[7] + up * basis[4];
        if (slope >= horizon) continue;
        float ahead = -eye[1] / slope, slack = (0.004f + 0.001f * ahead) / (ahead * eye[1]);
        float left = (0.5f - wide * 0.5f) / focal, pixel = ahead / focal;
        float x0 = eye[0] + ahead * (basis[6] + left * basis[0] + up * basis[3]);
        float z0 = eye[2] + ahead * (basis[8] + left * basis[2] + up * basis[5]);
        for (int64_t k = 0; k < many; k++) {
            const float *m = mark + 9 * k;
            if (y < spans[4 * k + 2] || y >= spans[4 * k + 3]) continue;
            float c = m[3], s = m[4], per = m[2];
            float u0 = (c * (x0 - m[0]) - s * (z0 - m[1])) * per, v0 = (s * (x0 - m[0]) + c * (z0 - m[1])) * per;
            float du = (c * basis[0] - s * basis[2]) * pixel * per, dv = (s * basis[0] + c * basis[2]) * pixel * per;
            int64_t side = picks[4 * k + 1], pick = picks[4 * k];
            float unit = m[8] / 65535;
            for (int64_t x = spans[4 * k]; x < spans[4 * k + 1]; x++) {
                float u = u0 + x * du, v = v0 + x * dv;
                if (fabsf(u) >= 1 || fabsf(v) >= 1 || fabsf(depth[y * wide + x] - 1 / ahead) >= slack) continue;
                float tx = fminf(fmaxf((u + 1) * 0.5f * side - 0.5f, 0), side - 1);
                float ty = fminf(fmaxf((v + 1) * 0.5f * side - 0.5f, 0), side - 1);
                int64_t ix = (int64_t)tx < side - 2 ? (int64_t)tx : side - 2;
                int64_t iy = (int64_t)ty < side - 2 ? (int64_t)ty : side - 2;
                int64_t at = pick + iy * side + ix;
                float fx = tx - ix, fy = ty - iy, light = amid(planes, at, side, fx, fy);
                float through = 1 - amid(planes + 3 * texels, at, side, fx, fy) * unit;
                for (int channel = 0; channel < 3; channel++) {
                    float *p = picture + (channel * high + y) * wide + x;
                    if (channel && !grey) light = amid(planes + channel * texels, at, side, fx, fy);
                    *p = *p * through + light * m[5 + channel] * unit;
                }
            }
        }
    }
}

/* The way from a point of a surface to one beside it, on whichever side lies likelier on the same surface. */
static inline void beside(const float *p, float here, float before, float after, const float *view, const float *step,
                          float *out) {
    int on = fabsf(after - here) < fabsf(before - here);
    float way = on ? 1 : -1, far = 1 / fmaxf(on ? after : before, 1e-9f);
    for (int k = 0; k < 3; k++) out[k] = far * (view[k] + way * step[k]) - p[k];
}

/* Lights on all that is solid: of each row and pixel, all lights that reach it. */
void lights(float *picture, const float *depth, int64_t high, int64_t wide, const float *eye, const float *basis,
            float focal, int64_t many, const float *light, const int32_t *spans, int64_t skip, int threads) {
#pragma omp parallel for num_threads(threads) schedule(dynamic, 8)
    for (int64_t y = 0; y < high; y += skip) {
        float up = (high * 0.5f - y - 0.5f) / focal, half = wide * 0.5f - 0.5f;
        float right[3], below[3];
        for (int k = 0; k < 3; k++) right[k] = basis[k] / focal, below[k] = -basis[3 + k] / focal;
        for (int64_t x = 0; x < wide; x++) {
            const float *d = depth + y * wide + x;
            if (d[0] <= 0) continue;
            float view[3], p[3], a[3], b[3], n[3], sent[3] = {0, 0, 0};
            for (int k = 0; k < 3; k++) {
                view[k] = basis[6 + k] + up * basis[3 + k] + (x - half) * right[k];
                p[k] = view[k] / d[0];
            }
            beside(p, d[0], x ? d[-1] : 2 * d[0] - d[1], x + 1 < wide ? d[1] : 2 * d[0] - d[-1], view, right, a);
            beside(p, d[0], y ? d[-wide] : 2 * d[0] - d[wide], y + 1 < high ? d[wide] : 2 * d[0] - d[-wide], view,
                   below, b);
            n[0] = a[1] * b[2] - a[2] * b[1], n[1] = a[2] * b[0] - a[0] * b[2], n[2] = a[0] * b[1] - a[1] * b[0];
            float size = sqrtf(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) + 1e-18f;
            if (n[0] * p[0] + n[1] * p[1] + n[2] * p[2] > 0) size = -size;
            for (int64_t k = 0; k < many; k++) {
                const int32_t *span = spans + 4 * k;
                if (y + skip <= span[2] || y >= span[3] || x < span[0] || x >= span[1]) continue;
                const float *l = light + 7 * k;
                float lx = l[0] - eye[0] - p[0], ly = l[1] - eye[1] - p[1], lz = l[2] - eye[2] - p[2];
                float square = lx * lx + ly * ly + lz * lz, share = 1 - square / (l[3] * l[3]);
                if (share <= 0) continue;
                float facing = (n[0] * lx + n[1] * ly + n[2] * lz) / size / (sqrtf(square) + 1e-9f) + 0.25f;
                float strength = share * share * fmaxf(facing, 0) * 0.8f;
                for (int c = 0; c < 3; c++) sent[c] += strength * l[4 + c];
            }
            for (int64_t row = y; row < y + skip && row < high; row++)
                for (int c = 0; c < 3; c++) {
                    float *q = picture + (c * high + row) * wide + x;
                    *q += sent[c] * fminf(fmaxf(*q / 0.8f, 0.05f), 0.8f);
                }
        }
    }
}

enum { BAND = 16, CELLS = 32 };

/* Value noise at a point, 0 to 1, from a lattice that repeats, the right neighbour in the upper bits. */
static inline float noise(const uint32_t *lattice, float x, float y, float z) {
    float fx = floorf(x), fy = floorf(y), fz = floorf(z), sx = x - fx, sy = y - fy, sz = z - fz;
    int ix = (int)fx & (CELLS - 1), iy = (int)fy, iz = (int)fz;
    sx = sx * sx * (3 - 2 * sx), sy = sy * sy * (3 - 2 * sy), sz = sz * sz * (3 - 2 * sz);
    float sheet[2];
    for (int k = 0; k < 2; k++) {
        int at = ((iz + k) & (CELLS - 1)) * CELLS * CELLS + ix;
        uint32_t a = lattice[at + (iy & (CELLS - 1)) * CELLS], b = lattice[at + ((iy + 1) & (CELLS - 1)) * CELLS];
        float top = (a & 0xffffu) + ((float)(a >> 16) - (a & 0xffffu)) * sx;
        float low = (b & 0xffffu) + ((float)(b >> 16) - (b & 0xffffu)) * sx;
        sheet[k] = top + (low - top) * sy;
    }
    return (sheet[0] + (sheet[1] - sheet[0]) * sz) / 65535;
}

static inline float blotches(const uint32_t *lattice, float x, float y, float z) {
    float value = 1.1f * noise(lattice, x, y, z) + 0.55f * noise(lattice, 2 * x + 0.5f, 2 * y + 0.5f, 2 * z + 0.5f);
    return fminf(fmaxf(value - 0.325f, 0), 1);
}

static inline float smooth(float x) {
    x = fminf(fmaxf(x, 0), 1);
    return x * x * (3 - 2 * x);
}

/* A film of noise, one sample a pixel, into its patch: light, cover, and by how much it bends. */
void shell_mesh(int64_t bands, const int32_t *counts, const int32_t *lists, const float *screen, const int32_t *triangles,
          const float *vertices, const float *places, const float *w, const uint32_t *lattice, const float *lens,
          const float *solid, int64_t tall, int64_t broad, float step, int64_t rows, float *depth, int32_t *ids,
          int64_t line, const int32_t *box, float *patch, int64_t planes, int64_t high, int64_t pitch, int threads) {
#pragma omp parallel for num_threads(threads) schedule(dynamic, 1)
    for (int64_t band = 0; band < bands; band++) {
        int64_t first = band * BAND, last = first + BAND < rows ? first + BAND : rows;
        for (int64_t y = first; y < last; y++) memset(depth + y * line + box[0], 0, 4 * (box[2] - box[0]));
        for (int64_t entry = counts[band]; entry < counts[band + 1]; entry++) {
            int32_t t = lists[entry];
            const float *a = screen + 3 * triangles[3 * t], *b = screen + 3 * triangles[3 * t + 1];
            const float *c = screen + 3 * triangles[3 * t + 2];
            int64_t left = (int64_t)ceilf(fmaxf(fminf(fminf(a[0], b[0]), c[0]) - 0.5f, box[0]));
            int64_t right = (int64_t)floorf(fminf(fmaxf(fmaxf(a[0], b[0]), c[0]) - 0.5f, box[2] - 1));
            int64_t top = (int64_t)ceilf(fmaxf(fminf(fminf(a[1], b[1]), c[1]) - 0.5f, first));
            int64_t bottom = (int64_t)floorf(fminf(fmaxf(fmaxf(a[1], b[1]), c[1]) - 0.5f, last - 1));
            float scale = 1 / ((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]));
            float bx = (c[1] - a[1]) * scale, by = (a[0] - c[0]) * scale;
            float cx = (a[1] - b[1]) * scale, cy = (b[0] - a[0]) * scale, mb = b[2] - a[2], mc = c[2] - a[2];
            for (int64_t y = top; y <= bottom; y++)
                for (int64_t x = left; x <= right; x++) {
                    float px = x + 0.5f - a[0], py = y + 0.5f - a[1], sb = px * bx + py * by, sc = px * cx + py * cy;
                    float near = a[2] + sb * mb + sc * mc;
                    int in = sb >= 0 && sc >= 0 && sb + sc <= 1 && near > depth[y * line + x];
                    depth[y * line + x] = in ? near : depth[y * line + x];
                    ids[y * line + x] = in ? t : ids[y * line + x];
                }
        }
        for (int64_t y = first > box[1] ? first : box[1]; y < last && y < box[3]; y++) {
            int64_t row = y - box[1], behind = (int64_t)((y + 0.5f) * step);
            for (int64_t p = 0; p < planes; p++) memset(patch + (p * high + row) * pitch, 0, 4 * pitch);
            if (behind > tall - 1) behind = tall - 1;
            for (int64_t x = box[0]; x < box[2]; x++) {
                float near = depth[y * line + x];
                if (near <= 0) continue;
                int64_t column = (int64_t)((x + 0.5f) * step);
                float solid_here = solid[behind * broad + (column < broad ? column : broad - 1)], far = 1 / near;
                float gap = solid_here > 0 ? fminf(fmaxf((1 / solid_here - far) * w[24], 0), 1) : 1;
                if (gap == 0) continue;
                const int32_t *corners = triangles + 3 * ids[y * line + x];
                const float *a = screen + 3 * corners[0], *b = screen + 3 * corners[1], *c = screen + 3 * corners[2];
                float bx = b[0] - a[0], by = b[1] - a[1], qx = c[0] - a[0], qy = c[1] - a[1];
                float scale = far / (bx * qy - qx * by), px = x + 0.5f - a[0], py = y + 0.5f - a[1];
                float wb = (px * qy - py * qx) * scale * b[2], wc = (py * bx - px * by) * scale * c[2], wa = 1 - wb - wc;
                const float *va = vertices + 8 * corners[0], *vb = vertices + 8 * corners[1];
                const float *vc = vertices + 8 * corners[2], *pa = places + 3 * corners[0];
                const float *pb = places + 3 * corners[1], *pc = places + 3 * corners[2];
                float n[3], at[3], v[3], height = wa * va[5] + wb * vb[5] + wc * vc[5];
                for (int k = 0; k < 3; k++) {
                    n[k] = wa * va[k] + wb * vb[k] + wc * vc[k];
                    at[k] = wa * pa[k] + wb * pb[k] + wc * pc[k];
                    v[k] = lens[5 + k] + (y + 0.5f - lens[4]) * lens[11 + k] + (x + 0.5f - lens[3]) * lens[8 + k];
                }
                float size = sqrtf(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
                float way = sqrtf(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
                float facing = fminf(fabsf(n[0] * v[0] + n[1] * v[1] + n[2] * v[2]) / (size * way), 1);
                float second = blotches(lattice, at[0] * w[10] - w[15], at[1] * w[10] - w[16], at[2] * w[10] - w[17]);
                float moved = (second - 0.5f) * w[18];
                float main = blotches(lattice, at[0] * w[8] - w[12] + moved, at[1] * w[8] - w[13] + moved,
                                      at[2] * w[8] - w[14]);
                float mask = smooth((height - w[19] + 1e-6f) / fmaxf(w[20] - w[19], 1e-6f));
                mask *= smooth((w[22] - height + 1e-6f) / fmaxf(w[22] - w[21], 1e-6f));
                float rim = powf(fmaxf(1 - facing, 1e-6f), w[5]);
                float pattern = (1 - w[6] * (1 - main)) * (1 - w[7] * (1 - second));
                pattern = fminf(fmaxf((pattern - 0.5f) * w[23] + 0.5f, 0), 1) * mask;
                float seen = gap * fminf(facing * 9, 1), opacity = fminf(pattern * (w[4] + (1 - w[4]) * rim) * w[0], 1);
                float *o = patch + row * pitch + x - box[0], bend = pattern * seen * w[25] * w[0] / (size * lens[14]);
                opacity *= seen;
                for (int k = 0; k < 3; k++) o[k * high * pitch] = w[1 + k] * opacity;
                o[3 * high * pitch] = w[26] > 0 ? 0 : opacity;
                if (planes > 4) {
                    o[4 * high * pitch] = (n[0] * lens[8] + n[1] * lens[9] + n[2] * lens[10]) * bend;
                    o[5 * high * pitch] = (n[0] * lens[11] + n[1] * lens[12] + n[2] * lens[13]) * bend;
                }
            }
        }
    }
}

enum { SPECK = 0, NARROW = 1, GREY = 2, TINTED = 3 };

/* Squares over the picture, in the order of each band's list, as their records say (see `sprite_kernels`). */
void quads(int64_t bands, const float *records, const int32_t *marks, const int32_t *counts, const int32_t *lists,
             int64_t rows, int64_t texels, const uint32_t *planes, const float *depth, int64_t high, int64_t wide,
             float *picture, int threads) {
#pragma omp parallel for num_threads(threads) schedule(dynamic, 1)
    for (int64_t band = 0; band < bands; band++) {
        int64_t first = band * rows, last = first + rows < high ? first + rows : high;
        for (int64_t entry = counts[band]; entry < counts[band + 1]; entry++) {
            const float *r = records + 16 * (int64_t)lists[entry];
            const int32_t *m = marks + 16 * (int64_t)lists[entry];
            int way = m[13] & 7;
            int64_t side = m[13] >> 3, top = (int64_t)fmaxf(r[1] - r[15], first);
            int64_t bottom = (int64_t)fminf(r[1] + r[15], last - 1);
            if (way == SPECK) top = (int64_t)fmaxf(floorf(r[1] - r[5]), first), bottom = (int64_t)fminf(r[1] + r[5], last - 1);
            for (int64_t y = top; y <= bottom; y++) {
                float down = y + 0.5f - r[1], u0 = down * r[5], v0 = down * r[7], left = r[0] - r[14], right = r[0] + r[14];
                const float *near = depth + y * wide;
                float *red = picture + y * wide, *green = red + high * wide, *blue = green + high * wide;
                if (way == SPECK) {
                    float share = fminf(r[1] + r[5], y + 1) - fmaxf(r[1] - r[5], y);
                    int64_t begin = (int64_t)fmaxf(floorf(r[0] - r[4]), 0), end = (int64_t)fminf(r[0] + r[4], wide - 1);
                    for (int64_t x = begin; x <= end; x++) {
                        float far = near[x] > 0 ? 1 / near[x] : 1e9f;
                        float cover = fmaxf(fminf(r[0] + r[4], x + 1) - fmaxf(r[0] - r[4], x), 0) * share;
                        float strength = fminf(fmaxf((far - r[2]) * r[3], 0), 1) * cover, through = 1 - strength * r[11];
                        red[x] = red[x] * through + strength * r[8];
                        green[x] = green[x] * through + strength * r[9];
                        blue[x] = blue[x] * through + strength * r[10];
                    }
                    continue;
                }
                float wide_u = fabsf(r[4]) > 1e-6f ? 1 / r[4] : 1e6f, wide_v = fabsf(r[6]) > 1e-6f ? 1 / r[6] : 1e6f;
                left = fmaxf(-u0 * wide_u - fabsf(wide_u), -v0 * wide_v - fabsf(wide_v)) + r[0];
                right = fminf(-u0 * wide_u + fabsf(wide_u), -v0 * wide_v + fabsf(wide_v)) + r[0];
                int64_t begin = (int64_t)fminf(fmaxf(ceilf(left - 0.5f), 0), wide);
                int64_t end = (int64_t)fmaxf(fminf(floorf(right - 0.5f), wide - 1), -1);
                for (int64_t x = begin; x <= end; x++) {
                    float across = x + 0.5f - r[0], far = near[x] > 0 ? 1 / near[x] : 1e9f;
                    float gap = fminf(fmaxf((far - r[2]) * r[3], 0), 1);
                    if (gap == 0) continue;
                    float tx = fminf(fmaxf((u0 + across * r[4] + 1) * 0.5f * side - 0.5f, 0), side - 1);
                    float ty = fminf(fmaxf((v0 + across * r[6] + 1) * 0.5f * side - 0.5f, 0), side - 1);
                    int64_t ix = (int64_t)tx < side - 2 ? (int64_t)tx : side - 2;
                    int64_t iy = (int64_t)ty < side - 2 ? (int64_t)ty : side - 2, at = m[12] + iy * side + ix;
                    float fx = tx - ix, fy = ty - iy, light = amid(planes, at, side, fx, fy) * gap, more = light;
                    float through = r[11] > 0 ? 1 - amid(planes + 3 * texels, at, side, fx, fy) * gap * r[11] : 1;
                    red[x] = red[x] * through + light * r[8];
                    if (way == TINTED) more = amid(planes + texels, at, side, fx, fy) * gap;
                    green[x] = green[x] * through + more * r[9];
                    if (way == TINTED) more = amid(planes + 2 * texels, at, side, fx, fy) * gap;
                    blue[x] = blue[x] * through + more * r[10];
                }
            }
        }
    }
}

/* The columns where a straight line that is `at` in column 0, and grows by `by` a column, is not below 0. */
static inline void narrow(float *low, float *most, float at, float by) {
    if (by > 1e-9f) *low = fmaxf(*low, -at / by);
    else if (by < -1e-9f) *most = fminf(*most, -at / by);
    else if (at < 0) *most = *low - 1;
}

/* Facets over the picture, in the order of each band's list, their textures drawn out once. */
void lay_facets(int64_t bands, const int32_t *marks, const int32_t *counts, const int32_t *lists, const float *facets,
                const int32_t *skins, int64_t rows, int64_t texels, const uint32_t *planes, const float *depth,
                int64_t high, int64_t wide, float *picture, int threads) {
#pragma omp parallel for num_threads(threads) schedule(dynamic, 1)
    for (int64_t band = 0; band < bands; band++) {
        int64_t first = band * rows, last = first + rows < high ? first + rows : high;
        for (int64_t entry = counts[band]; entry < counts[band + 1]; entry++) {
            int32_t number = marks[16 * (int64_t)lists[entry] + 12];
            const float *f = facets + 32 * (int64_t)number;
            int64_t start = skins[3 * number], side = skins[3 * number + 1];
            int64_t top = (int64_t)fmaxf(floorf(f[2]), first), bottom = (int64_t)fminf(f[3], last - 1);
            for (int64_t y = top; y <= bottom; y++) {
                float down = y + 0.5f - f[5] + 0.0029f, aside = 0.0013f - f[4];
                float b0 = down * f[7] + aside * f[6], c0 = down * f[9] + aside * f[8];
                float low = f[0], most = f[1];
                narrow(&low, &most, b0, f[6]);
                narrow(&low, &most, c0, f[8]);
                narrow(&low, &most, 1 - b0 - c0, -f[6] - f[8]);
                int64_t begin = (int64_t)fmaxf(ceilf(low - 0.5f), 0), end = (int64_t)fminf(floorf(most - 0.5f), wide - 1);
                for (int64_t x = begin; x <= end; x++) {
                    float sb = b0 + (x + 0.5f) * f[6], sc = c0 + (x + 0.5f) * f[8], sa = 1 - sb - sc;
                    if (fminf(sa, fminf(sb, sc)) < 0) continue;
                    float far = 1 / (sa * f[10] + sb * f[11] + sc * f[12]), b = sb * f[11] * far, c = sc * f[12] * far;
                    float near = depth[y * wide + x];
                    float gap = fminf(fmaxf(((near > 0 ? 1 / near : 1e9f) - far) * f[31], 0), 1);
                    if (gap == 0) continue;
                    float tx = fminf(fmaxf((f[13] + b * f[14] + c * f[15]) * side - 0.5f, 0), side - 1);
                    float ty = fminf(fmaxf((f[16] + b * f[17] + c * f[18]) * side - 0.5f, 0), side - 1);
                    int64_t ix = (int64_t)tx < side - 2 ? (int64_t)tx : side - 2;
                    int64_t iy = (int64_t)ty < side - 2 ? (int64_t)ty : side - 2, at = start + iy * side + ix;
                    float fx = tx - ix, fy = ty - iy, kept = f[28] + b * f[29] + c * f[30];
                    float through = 1 - amid(planes + 3 * texels, at, side, fx, fy) * gap * kept;
                    for (int k = 0; k < 3; k++) {
                        float tint = f[19 + 3 * k] + b * f[20 + 3 * k] + c * f[21 + 3 * k];
                        float *p = picture + (k * high + y) * wide + x;
                        *p = *p * through + amid(planes + k * texels, at, side, fx, fy) * gap * tint;
                    }
                }
            }
        }
    }
}
