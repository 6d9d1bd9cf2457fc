<?php

declare(strict_types=1);

namespace App\Estate\Limits;

use App\Estate\Connectors\SourceError;

/**
 * Stands before every statement somebody sends: whether their limits leave room for it. The capability that keeps limits answers.
 */
interface StatementGate
{
    /**
     * Reserves what a statement is expected to use. Whoever is let in has to settle what it really used, however it ended.
     *
     * @throws SourceError in words for the sender, when it is held
     */
    public function admit(Sending $sending): Admission;
}
