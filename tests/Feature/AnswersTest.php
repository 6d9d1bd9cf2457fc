<?php

declare(strict_types=1);

namespace Tests\Feature;

use Fulcrion\Tools\Answers\AnswerComparison;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

#[Group('today')]
final class AnswersTest extends TestCase
{
    public function test_the_practice_cluster_answers_as_mariadb_does(): void
    {
        $comparison = new AnswerComparison(
            DB::connection()->getPdo(),
            sys_get_temp_dir().'/fulcrion-answers-'.bin2hex(random_bytes(4)),
        );
        try {
            $written = AnswerComparison::written();
            $generated = AnswerComparison::generated(500);
            self::assertGreaterThanOrEqual(150, count($written));
            $differing = [];
            foreach ([...$written, ...$generated] as [$ours, $theirs]) {
                $difference = $comparison->difference($ours, $theirs);
                if ($difference !== null) {
                    $differing[] = "{$ours}\n  {$difference}";
                }
            }
            self::assertSame([], $differing);
            // The comparison itself must be able to fail.
            self::assertNotNull($comparison->difference('SELECT count(*) FROM pick', 'SELECT count(*) + 1 FROM pick'));
            self::assertNotNull($comparison->difference('SELECT id FROM bay ORDER BY id', 'SELECT id FROM bay ORDER BY id DESC'));
        } finally {
            $comparison->close();
        }
    }
}
