<?php

declare(strict_types=1);

use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Http\Request;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Route as Routes;

/**
 * The address of a route within this application, as pages link to it: no page writes an address out.
 *
 * @param  mixed  $parameters one value, or several in the order of the address or by name; what the address has no place for
 *                            becomes its query
 */
function address(string $route, mixed $parameters = []): string
{
    // A page has hundreds of links; most need no more than their few values put into the address.
    static $parts = [];
    $parts[$route] ??= explode('{', Routes::getRoutes()->getByName($route)?->uri() ?? '?');
    $address = "/{$parts[$route][0]}";
    $values = array_values(is_array($parameters) ? $parameters : [$parameters]);
    $plain = $address !== '//' && count($values) === count($parts[$route]) - 1 && array_is_list((array) $parameters);
    foreach ($plain ? $values : [] as $i => $value) {
        $rest = explode('}', $parts[$route][$i + 1], 2);
        $said = is_int($value) || (is_string($value) && preg_match('~^[\w.-]*\w$~', $value) === 1);
        $plain = $plain && $said && ! str_ends_with($rest[0], '?');
        $address .= $plain ? $value.$rest[1] : '';
    }
    if ($plain && ! str_contains($address, '?')) {
        return $address;
    }

    return route($route, $parameters, false);
}

/** The one file a form sent; where several came by that name, or none, the request is refused. */
function upload(Request $request, string $name = 'file'): UploadedFile
{
    $file = $request->file($name);

    return $file instanceof UploadedFile ? $file : abort(422, 'Choose one file.');
}

/**
 * A moment by UTC, the same for all readers; a date of use, which is written as if it were of UTC.
 *
 * @param  int  $at seconds since 1970-01-01 UTC
 */
function onUtc(int $at, MomentStyle $as): string
{
    return moment($at * 1_000_000, $as, new DateTimeZone('UTC'));
}

/**
 * A moment by the clocks of the estate, the same for all readers.
 *
 * @param  int  $at seconds since 1970-01-01 UTC
 */
function onClocks(int $at, MomentStyle $as): string
{
    return moment($at * 1_000_000, $as, app(Calendar::class)->zone);
}

/**
 * A moment as the reader of this page reads it; a dash for what is not known.
 *
 * @param  int|DateTimeInterface|null  $at microseconds since 1970-01-01 UTC, or a moment
 * @param  DateTimeZone|null  $zone the reader's own where none is given
 */
function moment(int|DateTimeInterface|null $at, MomentStyle $as = MomentStyle::Minute, ?DateTimeZone $zone = null): string
{
    if ($at === null || (is_int($at) && $at < 0)) {
        return Quantity::NONE;
    }
    if ($zone === null) {
        $user = auth()->guard()->user();
        $zone = $user instanceof User ? $user->zone() : new DateTimeZone('UTC');
    }
    $there = static fn (int $seconds): DateTimeImmutable => (new DateTimeImmutable("@{$seconds}"))->setTimezone($zone);

    return $as->say($there(is_int($at) ? intdiv($at, 1_000_000) : $at->getTimestamp()), $there(Clock::seconds()));
}

/**
 * A moment in a file that is handed on: whoever reads it knows neither our zone nor our year.
 *
 * @param  int|null  $atUs microseconds since 1970 UTC
 */
function utc(?int $atUs): string
{
    return $atUs === null || $atUs < 0 ? Quantity::NONE : moment($atUs, MomentStyle::Written, new DateTimeZone('UTC')).' UTC';
}
