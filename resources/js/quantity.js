/**
 * Numbers as people read them, for what a script computes itself; the same rules as the pages have, held together by
 * tests/Js/quantities.json. What the server has computed comes from it as text.
 */
const THIN = '\u202f';

const MINUS = '\u2212';

/** Rounded half up, after fifteen digits as the server does; of what is not negative. */
function fixed(size, places) {
    const scaled = Number((size * 10 ** places).toPrecision(15));
    return (Math.floor(scaled + 0.5) / 10 ** places).toFixed(places);
}

const grouped = (text) => text.replace(/\B(?=(\d{3})+(?!\d))/g, THIN);
const short = (text) => (text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text);

/** A plain number with three telling digits. */
export function digits(value) {
    const size = Math.abs(value);
    const sign = value < 0 ? MINUS : '';
    if (size >= 99.95 || Number.isInteger(size)) return sign + grouped(fixed(size, 0));
    if (size >= 9.995) return sign + fixed(size, 1);
    if (size >= 0.995) return sign + short(fixed(size, 2));
    if (size >= 0.0995) return sign + short(fixed(size, 3));
    return sign + short(fixed(size, Math.min(9, 1 - Math.floor(Math.log10(size)))));
}

/** 840 µs, 12.4 ms, 3.2 s, 4 min 10 s, 3 h 5 min, 2 d 4 h. */
export function duration(durationUs) {
    const sign = durationUs < 0 ? MINUS : '';
    const us = Math.abs(durationUs);
    if (us < 999.5) return `${sign}${digits(us)} µs`;
    if (us < 999_500) return `${sign}${digits(us / 1e3)} ms`;
    if (us < 99_950_000) return `${sign}${digits(us / 1e6)} s`;
    const pair = (large, a, small, b) => `${sign}${large} ${a}${small > 0 ? ` ${small} ${b}` : ''}`;
    const seconds = Math.round(us / 1e6);
    if (seconds < 3600) return pair(Math.floor(seconds / 60), 'min', seconds % 60, 's');
    const minutes = Math.round(seconds / 60);
    if (minutes < 2880) return pair(Math.floor(minutes / 60), 'h', minutes % 60, 'min');
    const hours = Math.round(minutes / 60);
    return pair(Math.floor(hours / 24), 'd', hours % 24, 'h');
}

export function bytes(count) {
    let value = count;
    for (const unit of ['B', 'KiB', 'MiB', 'GiB', 'TiB']) {
        const whole = Math.sign(value) * Number(fixed(Math.abs(value), 0));
        if (Math.abs(value) < 999.5) return `${digits(unit === 'B' ? whole : value)} ${unit}`;
        value /= 1024;
    }
    return `${digits(value)} PiB`;
}

/** An amount of money, with as many decimals as its currency has; whole from a thousand on. */
export function money(sum, currency) {
    const known = /^[A-Z]{3}$/.test(currency);
    const own = known ? new Intl.NumberFormat('en', { style: 'currency', currency }).resolvedOptions().maximumFractionDigits : 2;
    const places = Math.abs(sum) >= 1000 ? 0 : own;
    const [whole, rest] = fixed(Math.abs(sum), places).split('.');
    const text = grouped(whole) + (rest ? `.${rest}` : '');
    return `${sum < 0 && Number(text.replaceAll(THIN, '')) !== 0 ? MINUS : ''}${text}${currency === '' ? '' : `\u00a0${currency}`}`;
}

/** A share between 0 and 1. */
export function percent(share) {
    const size = Math.abs(share * 100);
    const sign = share < 0 ? MINUS : '';
    if (size === 0) return '0%';
    if (size < 0.1) return `${sign}<0.1%`;
    return `${sign}${size < 9.95 ? fixed(size, 1) : grouped(fixed(size, 0))}%`;
}

/** Round moments up to an end, so many at most and the start. */
export function moments(endUs, most = 7) {
    const steps = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1e3, 2e3, 5e3, 1e4, 2e4, 5e4, 1e5, 2e5, 5e5, 1e6, 2e6, 5e6, 1e7, 1.5e7, 3e7, 6e7,
        1.2e8, 3e8, 6e8, 9e8, 1.8e9, 3.6e9, 7.2e9, 1.44e10, 4.32e10, 8.64e10, 6.048e11];
    const step = steps.find((one) => endUs / one <= most) ?? endUs / (most - 1);
    return Array.from({ length: Math.floor(endUs / step) + 1 }, (_, i) => i * step);
}

/** A moment of the day in a time zone. */
export function clock(ms, zone) {
    return new Intl.DateTimeFormat('en-GB', { timeZone: zone, hour: '2-digit', minute: '2-digit', second: '2-digit',
        hourCycle: 'h23' }).format(new Date(ms));
}
