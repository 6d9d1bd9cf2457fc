<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * How far a condition is with one host. All is quiet where there is no state.
 */
final readonly class AlertState
{
    /**
     * @param  int  $since second in which the threshold was reached
     * @param  int|null  $rangAt second in which that had lasted long enough; null where it has not
     * @param  int|null  $calmSince second since which it is calm again; null where it is not
     * @param  float  $worst value since then
     */
    public function __construct(public int $since, public ?int $rangAt, public ?int $calmSince, public float $worst)
    {
    }

    /**
     * @return array{int, int|null, int|null, float}
     */
    public function plain(): array
    {
        return [$this->since, $this->rangAt, $this->calmSince, $this->worst];
    }

    /** Null where it is none. */
    public static function read(mixed $plain): ?self
    {
        if (! is_array($plain) || count($plain) !== 4 || ! is_int($plain[0] ?? null)) {
            return null;
        }
        [$since, $rangAt, $calmSince, $worst] = $plain;

        return (is_int($rangAt) || $rangAt === null) && (is_int($calmSince) || $calmSince === null)
            && (is_float($worst) || is_int($worst)) ? new self($since, $rangAt, $calmSince, (float) $worst) : null;
    }
}
