<?php

declare(strict_types=1);

namespace App\Health\Charts;

use Closure;
use Fulcrion\Core\Metrics\Readings;

/**
 * A line of a chart: how it comes of what the server keeps.
 */
final readonly class Measure
{
    /**
     * @param  list<string>  $of names of what the server keeps
     * @param  Closure(array<string, Readings>, int, int, int): list<float|null>  $values by readings, from, to and step in seconds
     */
    private function __construct(public string $name, public array $of, public Closure $values)
    {
    }

    /** Growth of a counter a second, times a factor. */
    public static function rate(string $name, string $of, float $factor = 1.0): self
    {
        return new self($name, [$of], static fn (array $readings, int $from, int $to, int $step): array => array_map(
            static fn (?float $rate): ?float => $rate === null ? null : $rate * $factor,
            $readings[$of]->rates($from, $to, $step),
        ));
    }

    /**
     * Values that are known already.
     *
     * @param  list<float|null>  $values one a step
     */
    public static function given(string $name, array $values): self
    {
        return new self($name, [], static fn (): array => $values);
    }

    /** The largest of what is so much at a moment. */
    public static function most(string $name, string $of): self
    {
        return new self(
            $name,
            [$of],
            static fn (array $readings, int $from, int $to, int $step): array => $readings[$of]->most($from, $to, $step),
        );
    }

    /** One counter's growth as a share of another one's; none where the other did not grow. */
    public static function share(string $name, string $part, string $whole): self
    {
        return new self($name, [$part, $whole], static fn (array $readings, int $from, int $to, int $step): array => array_map(
            self::divided(...),
            $readings[$part]->rates($from, $to, $step),
            $readings[$whole]->rates($from, $to, $step),
        ));
    }

    /** What is so much at a moment as a share of something else that is. */
    public static function shareOf(string $name, string $part, string $whole): self
    {
        return new self($name, [$part, $whole], static fn (array $readings, int $from, int $to, int $step): array => array_map(
            self::divided(...),
            $readings[$part]->most($from, $to, $step),
            $readings[$whole]->most($from, $to, $step),
        ));
    }

    private static function divided(?float $part, ?float $whole): ?float
    {
        return $part === null || $whole === null || $whole <= 0.0 ? null : $part / $whole;
    }
}
