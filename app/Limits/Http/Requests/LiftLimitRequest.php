<?php

declare(strict_types=1);

namespace App\Limits\Http\Requests;

use App\Platform\Support\Clock;
use Closure;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Text\TypedDuration;
use Illuminate\Foundation\Http\FormRequest;
use InvalidArgumentException;

/**
 * What a form sends to LimitBookController::lift().
 */
final class LiftLimitRequest extends FormRequest
{
    private const MOST_US = 31 * 86_400_000_000;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'until' => ['required', 'string', 'max:40', function (string $field, mixed $value, Closure $fail): void {
                $now = Clock::microseconds();
                $until = self::until((string) $value, $now, new DateTimeZone('UTC'));
                if ($until === null || $until <= $now - 86_400_000_000) {
                    $fail('Say how long, as 4 h, or until when, as 2026-12-01 18:00.');
                } elseif ($until > $now + self::MOST_US + 86_400_000_000) {
                    $fail('A hold is lifted for 31 days at most; beyond that, set another amount.');
                }
            }],
            'reason' => ['required', 'string', 'min:3', 'max:500'],
        ];
    }

    /**
     * @return int|null microseconds; null where it is neither a duration nor a moment
     */
    public static function until(string $text, int $nowUs, DateTimeZone $zone): ?int
    {
        try {
            return $nowUs + TypedDuration::us($text);
        } catch (InvalidArgumentException) {
            $at = DateTimeImmutable::createFromFormat('!Y-m-d H:i', str_replace('T', ' ', trim($text)), $zone);

            return $at === false ? null : $at->getTimestamp() * 1_000_000;
        }
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'until.required' => 'Say how long, as 4 h, or until when, as 2026-12-01 18:00.',
            'reason.*' => 'Say why, in 3 to 500 letters: the ledger keeps it.',
        ];
    }
}
