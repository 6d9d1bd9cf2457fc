<?php

declare(strict_types=1);

namespace App\Platform\Support;

use DateTimeZone;
use Fulcrion\Core\Time\Window;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Http\Request;
use InvalidArgumentException;

/**
 * The window of time an address asks for; a usual one where it asks for none, or for none that can be read.
 */
final readonly class AskedWindow
{
    private const MOST_LETTERS = 200;

    /**
     * @param  string|null  $complaint what is wrong with what was typed; the usual window is shown instead
     */
    private function __construct(public Window $window, public string $text, public ?string $complaint = null)
    {
    }

    public static function of(Request $request, string $usual, DateTimeZone $zone): self
    {
        $typed = $request->query('window');
        $text = is_string($typed) && trim($typed) !== '' ? mb_substr(trim($typed), 0, self::MOST_LETTERS) : $usual;
        try {
            return new self(WindowText::parse($text, Clock::seconds(), $zone), $text);
        } catch (InvalidArgumentException $exception) {
            return new self(WindowText::parse($usual, Clock::seconds(), $zone), $usual, $exception->getMessage());
        }
    }
}
