<?php

declare(strict_types=1);

namespace App\Loading\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Loading\TransferBound;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Loading\TransferModel;
use Fulcrion\Core\Loading\TransferredFile;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * What was delivered, and what is known of the way it took.
 */
final readonly class DeliveryBook
{
    private const KEPT_SECONDS = 400 * 86_400;

    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * The same delivery sent again takes the place of the one before.
     *
     * @param  list<TransferredFile>  $files
     * @return TransferMeasure|null null where nothing was brought
     */
    public function keep(Cluster $cluster, string $name, array $files): ?TransferMeasure
    {
        $measure = TransferMeasure::of($files);
        if ($measure === null || $files === []) {
            return null;
        }
        $bytes = array_map(static fn (TransferredFile $file): int => $file->bytes, $files);
        $at = intdiv(min(array_map(static fn (TransferredFile $file): int => $file->startUs, $files)), 1_000_000);
        $this->keepMeasure($cluster, $name, $at, $measure, min($bytes), max($bytes));

        return $measure;
    }

    public function keepMeasure(Cluster $cluster, string $name, int $at, TransferMeasure $measure, int $leastBytes, int $mostBytes): void
    {
        DB::table('deliveries')->upsert([
            'cluster_id' => $cluster->id, 'name' => mb_strcut($name, 0, 120), 'at' => $at, 'files' => $measure->files,
            'bytes' => $measure->bytes, 'seconds' => $measure->seconds, 'streams' => $measure->streams,
            'file_seconds' => $measure->fileSeconds, 'stream_rate' => $measure->streamBytesPerSecond,
            'least_bytes' => $leastBytes, 'most_bytes' => $mostBytes,
        ], ['cluster_id', 'name', 'at']);
    }

    /**
     * @return list<Delivery> newest first
     */
    public function latest(Cluster $cluster, ?string $name, int $count): array
    {
        return array_values(DB::table('deliveries')->where('cluster_id', $cluster->id)
            ->when($name !== null, static fn ($query) => $query->where('name', $name))->orderByDesc('at')->limit($count)->get()
            ->map(static fn (stdClass $row): Delivery => Delivery::read($row))->all());
    }

    /**
     * @return list<string> the one that came last first
     */
    public function names(Cluster $cluster): array
    {
        return array_values(array_map(strval(...), DB::table('deliveries')->where('cluster_id', $cluster->id)->groupBy('name')
            ->orderByRaw('MAX(at) DESC')->orderBy('name')->pluck('name')->all()));
    }

    public function setLink(Cluster $cluster, string $name, float $bytesPerSecond, string $by, int $nowUs): void
    {
        DB::table('delivery_links')->updateOrInsert(['cluster_id' => $cluster->id, 'name' => $name], [
            'bytes_per_second' => $bytesPerSecond, 'said_by' => $by, 'said_us' => $nowUs,
        ]);
    }

    /** @return stdClass|null bytes_per_second, said_by and said_us */
    public function link(Cluster $cluster, string $name): ?stdClass
    {
        return DB::table('delivery_links')->where('cluster_id', $cluster->id)->where('name', $name)->first();
    }

    /**
     * @param  array<string, Delivery>  $deliveries by name
     * @return array<string, TransferModel> by name
     */
    public function models(Cluster $cluster, array $deliveries): array
    {
        $shared = $deliveries === [] ? [] : $this->shared($cluster);

        return array_map(function (Delivery $one) use ($cluster, $shared): TransferModel {
            $link = $this->link($cluster, $one->name);

            return new TransferModel($one->measure,
                ($link === null ? [] : [TransferBound::Link->value => (float) $link->bytes_per_second]) + $shared);
        }, $deliveries);
    }

    /**
     * What all streams share at the end of the way.
     *
     * @return array<value-of<TransferBound>, float> bytes a second, by name
     */
    private function shared(Cluster $cluster): array
    {
        try {
            $nodes = $this->clusters->as(Actor::system(SystemActor::Meter, 'what a cluster can take in'))->nodes($cluster)?->nodes();
        } catch (SourceError) {
            return [];
        }

        return $nodes === null ? [] : [
            TransferBound::Network->value => (float) $nodes->shape->networkBytesPerSecond * count($nodes->names),
            TransferBound::Disk->value => (float) $nodes->shape->diskBytesPerSecond * count($nodes->names),
        ];
    }

    public function prune(int $now): void
    {
        DB::table('deliveries')->where('at', '<', $now - self::KEPT_SECONDS)->delete();
    }
}
