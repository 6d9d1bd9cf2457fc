<?php

declare(strict_types=1);

namespace App\Loading\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use Fulcrion\Core\Loading\TransferModel;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Text\TypedRate;

/**
 * Deliveries that take much longer than their way would let them.
 */
final readonly class LoadingFindings
{
    public const SOURCE = 'loading';

    /** Deliveries that are looked at: the middle of them counts. */
    private const LAST = 7;

    /** Less than this part of what is shared is used. */
    private const SHARE = 0.5;

    private const LEAST_SECONDS = 600.0;

    /** What has not come for so long is none of now. */
    private const OLD_SECONDS = 14 * 86_400;

    public function __construct(private Findings $findings, private DeliveryBook $book)
    {
    }

    public function report(Cluster $cluster, int $now): void
    {
        $middles = $counts = $reported = [];
        foreach ($this->book->names($cluster) as $name) {
            $last = $this->book->latest($cluster, $name, self::LAST);
            if ($last === [] || $last[0]->at < $now - self::OLD_SECONDS) {
                continue;
            }
            usort($last, static fn (Delivery $a, Delivery $b): int => $a->measure->seconds <=> $b->measure->seconds);
            $middles[$name] = $last[intdiv(count($last), 2)];
            $counts[$name] = count($last);
        }
        foreach ($this->book->models($cluster, $middles) as $name => $model) {
            $share = $model->share();
            if ($share !== null && $share < self::SHARE && $model->saved($model->saturating()) >= self::LEAST_SECONDS) {
                $reported[] = self::slow((string) $name, $middles[$name], $model, $share, $counts[$name]);
            }
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    private static function slow(string $name, Delivery $delivery, TransferModel $model, float $share, int $count): Reported
    {
        $measure = $delivery->measure;
        $enough = $model->saturating();
        $least = $model->least();

        return new Reported(
            'slow-delivery',
            FindingSubject::item("delivery {$name}"),
            Severity::Watch,
            "The delivery “{$name}” uses ".Quantity::percent($share).' of '.($least?->said() ?? 'what it could').' and is bound by '
                .$model->bound($measure->streams)->said(),
            [
                new Evidence('came', Quantity::count($measure->files).' files of '.Quantity::bytes($delivery->leastBytes).' to '
                    .Quantity::bytes($delivery->mostBytes).', '.Quantity::bytes($measure->bytes).' in all, in '
                    .Quantity::duration($measure->seconds * 1e6).' (the middle of the last '.$count.')'),
                new Evidence('rate', Quantity::bytes($measure->bytesPerSecond()).'/s on '.Quantity::digits($measure->streams)
                    .($measure->streams < 1.05 ? ' stream' : ' streams')),
                new Evidence('each file takes beside its bytes', Quantity::duration($measure->fileSeconds * 1e6)),
                ...($measure->streamBytesPerSecond === null ? [] : [
                    new Evidence('one stream while bytes come', Quantity::bytes($measure->streamBytesPerSecond).'/s')]),
                ...($least === null ? []
                    : [new Evidence('let through by '.$least->said(), TypedRate::bits($model->limits[$least->value]))]),
                new Evidence('with '.$enough.' streams, modelled', Quantity::duration($model->seconds($enough) * 1e6).', '
                    .Quantity::duration($model->saved($enough) * 1e6).' less each time'),
                Evidence::remedy("Bring {$enough} files at once instead of ".Quantity::digits($measure->streams)
                    .', or fewer and larger files. The page Loading in tries it for real on the way into the cluster.'),
            ],
            Weight::none(),
            '',
        );
    }
}
