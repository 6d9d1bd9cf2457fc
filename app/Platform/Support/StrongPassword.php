<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Closure;
use Fulcrion\Core\Text\Parts;
use Illuminate\Contracts\Validation\ValidationRule;

/**
 * Refuses passwords people try first: words of a shipped list with digits and marks around them, runs on the keyboard,
 * few characters over and over, and the person's own name or address (after NIST SP 800-63B, 5.1.1.2).
 */
final readonly class StrongPassword implements ValidationRule
{
    private const LEAST = 12;

    private const DISTINCT = 6;

    private const RUNS = [
        'abcdefghijklmnopqrstuvwxyz',
        'qwertyuiopasdfghjklzxcvbnm',
        'qwertzuiopasdfghjklyxcvbnm',
        '01234567890123456789',
        'qazwsxedcrfvtgbyhnujmikolp',
    ];

    /**
     * @param  list<string>  $own what belongs to the person: name, address
     */
    public function __construct(private array $own = [])
    {
    }

    public function validate(string $attribute, mixed $value, Closure $fail): void
    {
        $why = is_string($value) ? $this->weakness($value) : 'is no text';
        if ($why !== null) {
            $fail(
                "The password {$why}. Take at least ".
                    self::LEAST.
                    ' characters that nobody would try first, such as four words that have nothing to do with each other.',
            );
        }
    }

    /** Null where it is strong enough. */
    public function weakness(string $password): ?string
    {
        if (mb_strlen($password) < self::LEAST) {
            return 'is shorter than '.self::LEAST.' characters';
        }
        $low = mb_strtolower($password);
        if (count(array_unique(mb_str_split($low))) < self::DISTINCT) {
            return 'repeats few characters';
        }
        foreach ($this->own as $own) {
            foreach (Parts::split('~[^\p{L}\p{N}]+~u', mb_strtolower($own)) as $part) {
                if (mb_strlen($part) >= 4 && str_contains($low, $part)) {
                    return 'holds part of the name or address of its person';
                }
            }
        }
        $known = self::known();
        $notifications = strtr($low, [
            '0' => 'o',
            '1' => 'i',
            '3' => 'e',
            '4' => 'a',
            '5' => 's',
            '7' => 't',
            '@' => 'a',
            '$' => 's',
            '!' => 'i',
        ]);
        foreach ([(string) preg_replace('~[^a-z]~', '', $low), (string) preg_replace('~[^a-z]~', '', $notifications)] as $stem) {
            $left = str_replace($known, '', $stem);
            if ($stem !== '' && strlen($left) <= 3) {
                return 'is made of words that are tried first';
            }
        }
        foreach (self::RUNS as $run) {
            foreach ([$run, strrev($run)] as $keys) {
                for ($i = 0; $i + 6 <= strlen($keys); $i++) {
                    if (str_contains($low, substr($keys, $i, 6)) && strlen(str_replace(str_split($keys, 3), '', $low)) < 6) {
                        return 'is a run of neighbouring keys';
                    }
                }
            }
        }

        return preg_match('~^\d+$~', $low) === 1 ? 'is made of digits only' : null;
    }

    /**
     * @return list<string> longest first
     */
    private static function known(): array
    {
        $words = array_values(
            array_filter(
                Parts::between((string) file_get_contents(resource_path('passwords/first-tried.txt')), "\n"),
                static fn (string $word): bool => $word !== '' && $word[0] !== '#',
            ),
        );
        usort($words, static fn (string $a, string $b): int => strlen($b) <=> strlen($a));

        return $words;
    }
}
