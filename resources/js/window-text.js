/** A span of time as one types it into the field of the window, by the clock of a zone. Times are Unix seconds. */
export function windowText(from, to, zone) {
    const [a, b] = [parts(from, zone), parts(to, zone)];
    const day = (p) => `${p.year}-${p.month}-${p.day}`;
    const clock = (p) => `${p.hour}:${p.minute}`;

    return day(a) === day(b) ? `${day(a)} ${clock(a)}-${clock(b)}` : `${day(a)} ${clock(a)} to ${day(b)} ${clock(b)}`;
}

function parts(time, zone) {
    const format = new Intl.DateTimeFormat('en-GB', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit', hour: '2-digit',
        minute: '2-digit', hourCycle: 'h23' });

    return Object.fromEntries(format.formatToParts(new Date(time * 1000)).map((part) => [part.type, part.value]));
}
