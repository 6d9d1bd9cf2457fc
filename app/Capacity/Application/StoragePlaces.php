<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageStep;
use Fulcrion\Core\Capacity\StoredPart;

/**
 * How full the places of a cluster are, what grew in it and what could be given back.
 */
final readonly class StoragePlaces
{
    private const DAY = 86_400;

    /** What is looked back at: thirteen weeks and a day, as forecasts count whole weeks. */
    private const BACK_SECONDS = 92 * self::DAY;

    /** Places nobody has read for so long are gone. */
    private const GONE_SECONDS = 2 * self::DAY;

    private const GREW_SECONDS = 28 * self::DAY;

    /** Rules of layout whose changes give space back. */
    private const SPARE_RULES = ['expired-versions', 'orphan-files', 'unused-table'];

    /** The signal of what backups take, by their plan. */
    private const BACKUPS = 'backup:kept';

    public function __construct(private CapacityStore $store, private SignalSources $signals)
    {
    }

    /**
     * @return list<StoragePlace> the one that is full first before all others
     */
    public function of(Cluster $cluster, int $now): array
    {
        $places = [];
        foreach ($this->store->places($cluster->id, $now - self::GONE_SECONDS, $now + 1) as $name) {
            $place = StoragePlace::of($name, $this->store->readings($cluster->id, $name, $now - self::BACK_SECONDS, $now + 1));
            if ($place !== null) {
                $places[] = $place;
            }
        }
        usort($places, static fn (StoragePlace $a, StoragePlace $b): int => [$a->forecast->days ?? PHP_INT_MAX, $b->share(), $a->name]
            <=> [$b->forecast->days ?? PHP_INT_MAX, $a->share(), $b->name]);

        return $places;
    }

    /**
     * What came in the last four weeks, the most first.
     *
     * @return list<StoredPart>
     */
    public function grown(Cluster $cluster, int $now): array
    {
        $before = $this->store->parts($cluster->id, $now - self::GREW_SECONDS);
        $after = $before === [] ? [] : $this->store->parts($cluster->id, $now);

        return array_values(array_filter(
            StoredPart::changed(
                [...$before, ...$this->backups($cluster, $now - self::GREW_SECONDS)],
                [...$after, ...$this->backups($cluster, $now)],
            ),
            static fn (StoredPart $part): bool => $part->bytes > 0,
        ));
    }

    /**
     * @return list<StoredPart> what backups took at a moment
     */
    private function backups(Cluster $cluster, int $at): array
    {
        $parts = [];
        foreach ($this->signals->values($cluster, self::BACKUPS, $at - 1, $at, 1) as $plan => [$bytes]) {
            $parts[] = new StoredPart(PartKind::Backups, (string) $plan, $bytes ?? 0.0);
        }

        return $parts;
    }

    /**
     * What made each step of a cluster: by what was otherwise on its day than on the day before.
     *
     * @param  list<StorageStep>  $steps
     * @return array<int, StoredPart> by the second of the step
     */
    public function causes(Cluster $cluster, array $steps): array
    {
        $causes = [];
        foreach ($steps as $step) {
            $day = $step->at - $step->at % self::DAY;
            $changed = array_values(array_filter(
                StoredPart::changed($this->store->parts($cluster->id, $day - 1), $this->store->parts($cluster->id, $day)),
                static fn (StoredPart $part): bool => $part->bytes > 0 === $step->bytes > 0,
            ));
            if ($changed !== []) {
                $causes[$step->at] = $changed[0];
            }
        }

        return $causes;
    }

    /**
     * @return list<Finding> whose changes give space back, the most first
     */
    public function spare(Cluster $cluster): array
    {
        return array_values(Finding::query()->where('cluster_id', $cluster->id)->where('source', 'storage')
            ->whereIn('rule', self::SPARE_RULES)->whereIn('state', ['open', 'accepted'])->where('spare_bytes', '>', 0)
            ->orderByDesc('spare_bytes')->limit(50)->get()->all());
    }
}
