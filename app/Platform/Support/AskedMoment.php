<?php

declare(strict_types=1);

namespace App\Platform\Support;

use DateTimeZone;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Http\Request;
use InvalidArgumentException;

/**
 * The moment an address asks for; this one where it asks for none, or for one that cannot be read.
 */
final readonly class AskedMoment
{
    private const MOST_LETTERS = 100;

    /**
     * @param  string  $text as it was typed; empty for now
     * @param  string|null  $complaint what is wrong with it
     */
    private function __construct(public int $at, public string $text, public ?string $complaint = null)
    {
    }

    public static function of(Request $request, DateTimeZone $zone): self
    {
        $typed = $request->query('at');
        $text = is_string($typed) ? mb_substr(trim($typed), 0, self::MOST_LETTERS) : '';
        $now = Clock::seconds();
        try {
            return new self($text === '' ? $now : WindowText::instant($text, $now, $zone), $text);
        } catch (InvalidArgumentException $error) {
            return new self($now, $text, $error->getMessage());
        }
    }
}
