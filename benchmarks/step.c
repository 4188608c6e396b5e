/* The fused particle step in plain C: what the compiled kernel is measured against. */
#include <math.h>
#include <stdint.h>

static inline uint32_t hash32(uint32_t x) {
    x = (x ^ (x >> 16)) * 0x7FEB352Du;
    x = (x ^ (x >> 15)) * 0x846CA68Bu;
    return x ^ (x >> 16);
}

static inline float part(uint32_t bits, int shift) { return (float)(int32_t)((bits >> shift) & 63u) * (1.0f / 32.0f) - 1.0f; }

static inline void curl(float x, float y, float z, uint32_t seed, float *out) {
    float fx = floorf(x), fy = floorf(y), fz = floorf(z);
    int32_t ix = (int32_t)fx, iy = (int32_t)fy, iz = (int32_t)fz;
    float r[3] = {x - fx, y - fy, z - fz}, u[3], g[3];
    for (int k = 0; k < 3; k++) {
        u[k] = r[k] * r[k] * r[k] * (r[k] * (r[k] * 6.0f - 15.0f) + 10.0f);
        g[k] = 30.0f * r[k] * r[k] * (r[k] * (r[k] - 2.0f) + 1.0f);
    }
    float ay = 0, az = 0, bx = 0, bz = 0, cx = 0, cy = 0;
    for (int corner = 0; corner < 8; corner++) {
        int i = corner & 1, j = (corner >> 1) & 1, k = corner >> 2;
        float dx = r[0] - i, dy = r[1] - j, dz = r[2] - k;
        float wx = i ? u[0] : 1 - u[0], wy = j ? u[1] : 1 - u[1], wz = k ? u[2] : 1 - u[2];
        float sx = i ? g[0] : -g[0], sy = j ? g[1] : -g[1], sz = k ? g[2] : -g[2];
        float w = wx * wy * wz, px = sx * wy * wz, py = wx * sy * wz, pz = wx * wy * sz;
        uint32_t b = hash32(((uint32_t)(ix + i) * 0x9E3779B1u) ^ ((uint32_t)(iy + j) * 0x85EBCA77u) ^
                            ((uint32_t)(iz + k) * 0xC2B2AE3Du) ^ seed);
        uint32_t m = hash32(b ^ 0x6C8E9CF5u);
        float a0 = part(b, 0), a1 = part(b, 6), a2 = part(b, 12), b0 = part(b, 18), b1 = part(b, 24);
        float b2 = part(m, 0), c0 = part(m, 6), c1 = part(m, 12), c2 = part(m, 18);
        float pa = a0 * dx + a1 * dy + a2 * dz, pb = b0 * dx + b1 * dy + b2 * dz, pc = c0 * dx + c1 * dy + c2 * dz;
        ay += py * pa + w * a1;
        az += pz * pa + w * a2;
        bx += px * pb + w * b0;
        bz += pz * pb + w * b2;
        cx += px * pc + w * c0;
        cy += py * pc + w * c1;
    }
    out[0] = cy - bz;
    out[1] = az - cx;
    out[2] = bx - ay;
}

/* `state` holds columns of `stride` floats: x y z vx vy vz age. */
void step(float *state, int64_t stride, int64_t count, float dt, float time, const float *push, float drag,
          float strength, float scale, float change, uint32_t seed, int threads) {
    float *x = state, *y = x + stride, *z = y + stride, *vx = z + stride, *vy = vx + stride, *vz = vy + stride;
    float *age = vz + stride, slow = expf(-drag * dt), drift = change * time;
#pragma omp parallel for num_threads(threads)
    for (int64_t i = 0; i < count; i++) {
        float c[3];
        curl(x[i] * scale + drift, y[i] * scale - drift, z[i] * scale + drift, seed, c);
        vx[i] = (vx[i] + (push[0] + strength * c[0]) * dt) * slow;
        vy[i] = (vy[i] + (push[1] + strength * c[1]) * dt) * slow;
        vz[i] = (vz[i] + (push[2] + strength * c[2]) * dt) * slow;
        x[i] += vx[i] * dt;
        y[i] += vy[i] * dt;
        z[i] += vz[i] * dt;
        age[i] += dt;
    }
}
