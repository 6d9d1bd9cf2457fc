<?php

declare(strict_types=1);

namespace App\Loading\Application;

use App\Estate\Models\Cluster;
use App\Loading\Charts\StreamsFigure;
use App\Loading\Models\LoadTrial;
use Fulcrion\Core\Loading\TransferModel;
use Fulcrion\Core\Text\Quantity;

/**
 * What the page Loading in says of a delivery.
 */
final readonly class LoadingPage
{
    private const LAST = 28;

    private const TRIALS = 5;

    /** Less of the time than this is little. */
    private const LITTLE = 0.05;

    /** Files of this size are what the page asks about beside more streams. */
    private const PACKED_BYTES = 256_000_000;

    public function __construct(private DeliveryBook $book)
    {
    }

    /**
     * @return array<string, mixed>
     */
    public function of(Cluster $cluster, ?string $asked): array
    {
        $models = $this->models($cluster);
        $names = array_map(strval(...), array_keys($models));
        $name = in_array($asked, $names, true) ? $asked : ($names[0] ?? null);
        $last = $name === null ? [] : $this->book->latest($cluster, $name, self::LAST);
        $shown = $last[0] ?? null;
        $model = $name === null ? null : $models[$name];
        $trials = array_values(LoadTrial::query()->where('cluster_id', $cluster->id)->orderByDesc('id')->limit(self::TRIALS)->get()->all());
        $done = array_values(array_filter($trials, static fn (LoadTrial $one): bool => ($one->result ?? []) !== []));

        return [
            'cluster' => $cluster,
            'names' => $names,
            'name' => $name,
            'last' => $last,
            'shown' => $shown,
            'model' => $model,
            'packed' => $model?->packed(self::PACKED_BYTES),
            'link' => $name === null ? null : $this->book->link($cluster, $name),
            'figure' => $model === null ? null : StreamsFigure::ofModel($model),
            'trials' => $trials,
            'trialFigure' => $done === [] ? null : StreamsFigure::ofTrial($done[0]),
            'sentence' => self::sentence($cluster, $name, $model),
        ];
    }

    /**
     * @return array<string, TransferModel> the delivery that could gain most first, by its name
     */
    private function models(Cluster $cluster): array
    {
        $last = [];
        foreach ($this->book->names($cluster) as $name) {
            foreach ($this->book->latest($cluster, $name, 1) as $delivery) {
                $last[$name] = $delivery;
            }
        }
        $models = $this->book->models($cluster, $last);
        $gain = static fn (TransferModel $model): float => $model->limits === [] ? 0.0 : $model->saved($model->saturating());
        uasort($models, static fn (TransferModel $a, TransferModel $b): int => $gain($b) <=> $gain($a));

        return $models;
    }

    private static function sentence(Cluster $cluster, ?string $name, ?TransferModel $model): string
    {
        if ($name === null || $model === null) {
            return "No delivery to {$cluster->name} is known yet";
        }
        $share = $model->share();
        $enough = $model->saturating();
        if ($share === null) {
            return "The delivery “{$name}” comes at ".Quantity::bytes($model->measure->bytesPerSecond())
                .'/s; what its way lets through is not known';
        }
        $uses = "The delivery “{$name}” uses ".Quantity::percent($share).' of '.($model->least()?->said() ?? '');

        return $model->saved($enough) < self::LITTLE * $model->measure->seconds ? "{$uses}; more streams would gain little"
            : "{$uses}; {$enough} streams would bring it in ".Quantity::duration($model->seconds($enough) * 1e6);
    }
}
