<?php

declare(strict_types=1);

namespace App\Ledger\Console;

use App\Ledger\Watch\Postman;
use Illuminate\Console\Command;

final class PostCommand extends Command
{
    protected $signature = 'ledger:post {--digest : make letters of what was held for digests first}';

    protected $description = 'Sends what waits in the outbox';

    public function handle(Postman $postman): int
    {
        if ($this->option('digest')) {
            $postman->digest();
        }
        $postman->send();

        return self::SUCCESS;
    }
}
