<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Illuminate\Http\Request;

/**
 * Lets one script of a page add its style sheet, which the policy of pages allows to nothing else. A page that does not ask for it
 * has none.
 */
final class StyleNonce
{
    private const NAME = 'style-nonce';

    public static function of(Request $request): string
    {
        if (self::asked($request) === null) {
            $request->attributes->set(self::NAME, bin2hex(random_bytes(16)));
        }

        return (string) self::asked($request);
    }

    /** Null where the page did not ask. */
    public static function asked(Request $request): ?string
    {
        $value = $request->attributes->get(self::NAME);

        return is_string($value) ? $value : null;
    }
}
