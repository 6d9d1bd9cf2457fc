<?php

declare(strict_types=1);

namespace App\Metrics\Console;

use App\Metrics\Intake\Scraper;
use Illuminate\Console\Command;

final class ScrapeCommand extends Command
{
    protected $signature = 'metrics:scrape';

    protected $description = 'Asks the addresses that are due for their metrics';

    public function handle(Scraper $scraper): int
    {
        $this->line("{$scraper->askAll()} addresses were asked.");

        return self::SUCCESS;
    }
}
