<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Review\Detection;
use Fulcrion\Core\Access\Review\Detector;
use Fulcrion\Core\Sql\Printer;
use Illuminate\Support\Facades\Cache;

/**
 * Columns that seem to hold something personal, by names and sampled values. Samples are looked at and not kept.
 */
final readonly class Detections
{
    private const SAMPLED = 200;

    private const KEPT_SECONDS = 86_400;

    public function __construct(private AccessCatalogReader $world, private Clusters $clusters)
    {
    }

    /**
     * @return array<string, Detection> by path of the column
     */
    public function all(bool $again = false): array
    {
        if ($again) {
            Cache::forget('guard.detections');
        }
        /** @var array<string, array<string, mixed>> $kept */
        $kept = Cache::remember(
            'guard.detections',
            self::KEPT_SECONDS,
            fn (): array => array_map(static fn (Detection $d): array => get_object_vars($d), $this->look()),
        );

        return array_map(
            static fn (array $d): Detection =>
                new Detection($d['kind'], $d['key'], $d['rate'], $d['sampled'], $d['byName'], $d['examples']),
            $kept,
        );
    }

    /**
     * @return array<string, Detection>
     */
    private function look(): array
    {
        $found = [];
        $today = gmdate('Y-m-d', Clock::seconds());
        foreach ($this->world->catalog()->tables as $table) {
            if ($table->view !== null) {
                continue;
            }
            [$slug, $schema, $name] = ObjectPath::parts($table->path);
            $cluster = Cluster::query()->where('slug', $slug)->first();
            $runner =
                $cluster instanceof Cluster && $cluster->connector === 'practice'
                    ? $this->clusters->as(Actor::system(SystemActor::Policy, 'columns that seem personal'))->runner($cluster)
                    : null;
            if ($runner === null) {
                continue;
            }
            try {
                $result = $runner->run('SELECT * FROM '.(new Printer())->path([$schema, $name]).' LIMIT '.self::SAMPLED, $schema)
                    ->result;
            } catch (SourceError) {
                continue;
            }
            foreach ($result->columns ?? [] as $i => $column) {
                $values = array_map(
                    static fn (array $row): ?string => $row[$i] === null ? null : $column->type->show($row[$i]),
                    $result->rows ?? [],
                );
                $detection = Detector::look(strtolower($column->name), $values, (string) $column->type, $today);
                if ($detection !== null) {
                    $found[ObjectPath::child($table->path, $column->name)] = $detection;
                }
            }
        }

        return $found;
    }
}
