<?php

declare(strict_types=1);

namespace App\Loading\Console;

use App\Estate\Models\Cluster;
use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class JudgeDeliveriesCommand extends Command
{
    protected $signature = 'loading:judge';

    protected $description = 'Says which deliveries take longer than their way would let them';

    public function handle(LoadingFindings $findings, DeliveryBook $book): int
    {
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            $findings->report($cluster, Clock::seconds());
        }
        $book->prune(Clock::seconds());

        return self::SUCCESS;
    }
}
