<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * What rings would have been worth: marked times they caught and missed, and rings in which nothing was marked.
 */
final readonly class AlertScore
{
    /**
     * @param  list<MarkedSpan>  $caught
     * @param  list<MarkedSpan>  $missed
     * @param  list<AlertRing>  $quiet rings in which nothing was marked
     */
    private function __construct(public array $caught, public array $missed, public array $quiet)
    {
    }

    /**
     * A marked time is caught by a ring that rang in it, at least that touches it.
     *
     * @param  list<AlertRing>  $rings
     * @param  list<MarkedSpan>  $marked
     */
    public static function of(array $rings, array $marked): self
    {
        $caught = $missed = [];
        foreach ($marked as $span) {
            $isCaught = false;
            foreach ($rings as $ring) {
                $isCaught = $isCaught || self::catches($ring, $span);
            }
            if ($isCaught) {
                $caught[] = $span;
            } else {
                $missed[] = $span;
            }
        }
        $quiet = array_filter($rings, static function (AlertRing $ring) use ($marked): bool {
            foreach ($marked as $span) {
                if (self::catches($ring, $span)) {
                    return false;
                }
            }

            return true;
        });

        return new self($caught, $missed, array_values($quiet));
    }

    /** Nobody is helped by what rings when it is over. */
    private static function catches(AlertRing $ring, MarkedSpan $span): bool
    {
        return $ring->touches($span->from, $span->to) && $ring->rangAt <= $span->to;
    }
}
