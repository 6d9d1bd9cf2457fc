<?php

declare(strict_types=1);

namespace App\Alerts\Application;

/**
 * What somebody filled in, and what is wrong with it.
 */
final class AlertFields
{
    private const ANY = 1e15;

    /** @var array<string, string> by field */
    public array $complaints = [];

    /**
     * @param  array<array-key, mixed>  $asked
     */
    public function __construct(private readonly array $asked)
    {
    }

    public function word(string $name): ?string
    {
        $value = $this->asked[$name] ?? null;

        return is_string($value) ? trim($value) : null;
    }

    public function has(string $name): bool
    {
        return ($this->word($name) ?? '') !== '';
    }

    /** What is not filled in, or no such number, is as it usually is. */
    public function number(string $name, float $usual, float $least = -self::ANY, float $most = self::ANY): float
    {
        $text = str_replace(["\u{202f}", ' ', '%'], '', $this->word($name) ?? '');
        if ($text === '') {
            return $usual;
        }
        if (is_numeric($text) && is_finite((float) $text) && (float) $text >= $least && (float) $text <= $most) {
            return (float) $text;
        }
        $this->complaints[$name] = $least > -self::ANY ? 'Write a number from '.self::shown($least).' to '.self::shown($most).'.'
            : 'Write a number, as 90 or 1.5.';

        return $usual;
    }

    public static function shown(float $number): string
    {
        return rtrim(rtrim(sprintf('%.6F', $number), '0'), '.');
    }
}
