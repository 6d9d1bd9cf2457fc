<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;
use stdClass;

/**
 * A server that was started again in the last day: perhaps on purpose, perhaps not, and it is slower until it has its pages again.
 */
final readonly class StateFindings
{
    public const SOURCE = 'state';

    private const RECENT_US = 86_400_000_000;

    /** Started so often in a day it is not on purpose. */
    private const OFTEN = 3;

    public function __construct(private Findings $findings, private ServerEvents $events)
    {
    }

    public function report(Cluster $cluster): void
    {
        $nowUs = Clock::microseconds();
        $restarts = $this->events->between($cluster, $nowUs - self::RECENT_US, $nowUs + 10_000_000, ServerEvents::RESTART);
        $this->findings->reconcile($cluster, self::SOURCE, $restarts === [] ? [] : [$this->restarted($cluster, $restarts)]);
    }

    /**
     * @param  non-empty-list<stdClass>  $restarts newest first
     */
    private function restarted(Cluster $cluster, array $restarts): Reported
    {
        $count = count($restarts);
        $last = $restarts[0];
        $at = static fn (int|string $us): string => moment((int) $us, MomentStyle::Second, new DateTimeZone('UTC')).' UTC';
        $silentUs = max(0, (int) $last->at_us - (int) $last->before);
        $settings = $this->events->between(
            $cluster,
            (int) $last->at_us - 60_000_000,
            (int) $last->at_us + 120_000_000,
            ServerEvents::VARIABLE,
        );

        return new Reported(
            'restarted',
            FindingSubject::item($cluster->name),
            Severity::of($count >= self::OFTEN),
            "{$cluster->name} was started again ".($count === 1 ? '' : "{$count} times in the last 24 hours, the last time ").
                $at($last->at_us).', and did not answer for up to '.Quantity::duration((float) $silentUs),
            [
                new Evidence('last read before', $at($last->before)),
                new Evidence('started', $at($last->at_us)),
                ...array_map(
                    static fn (stdClass $one): Evidence => new Evidence(
                        "set otherwise since: {$one->name}",
                        ($one->before ?? 'not there').' → '.($one->after ?? 'not there'),
                    ),
                    array_slice($settings, 0, 5),
                ),
                Evidence::remedy(
                    'Look into the error log of the server for why it ended. Its pages are read from disk until they are in memory '
                        .'again; the page State shows how far that is.',
                ),
            ],
            Weight::none(),
            '',
            urgent: true,
        );
    }
}
