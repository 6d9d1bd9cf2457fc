<?php

declare(strict_types=1);

namespace Tests\Core\Health;

use Fulcrion\Core\Health\Complaint;
use Fulcrion\Core\Health\Verdict;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class ComplaintTest extends TestCase
{
    /**
     * @return array<string, array{Verdict, Complaint}>
     */
    public static function complaints(): array
    {
        return [
            // Five that are planted.
            'everybody waits on Monday' => [Verdict::System, new Complaint(16.0, 1.1, 0.93, 0.0, 1.0, probe: 9.0)],
            'a slow disk' => [Verdict::Host, new Complaint(1.9, 1.9, 0.0, 0.0, 1.0, probe: 1.1, host: 2.0)],
            'all years in place of two weeks' => [Verdict::Statement, new Complaint(28.0, 28.0, 0.0, 0.0, 30.0, probe: 1.05)],
            'a full queue of its own' => [Verdict::Queue, new Complaint(12.0, 1.0, 0.92, 0.0, 1.0, probe: 1.1)],
            'nothing' => [Verdict::Nothing, new Complaint(1.2, 1.2, 0.0, 0.0, 1.1, probe: 1.0)],
            // What they are easily taken for.
            'as usual while the system struggles' => [Verdict::Nothing, new Complaint(1.1, 1.1, 0.0, 0.0, 1.0, probe: 4.0)],
            'its own reading beside a system that struggles a little' => [Verdict::Statement,
                new Complaint(30.0, 30.0, 0.0, 0.0, 30.0, probe: 2.1, host: 2.0)],
            'a system that struggles more than it read' => [Verdict::System, new Complaint(12.0, 12.0, 0.0, 0.0, 1.6, probe: 8.0)],
            'locks' => [Verdict::Lock, new Complaint(20.0, 20.0, 0.0, 0.9, 1.0, probe: 1.0)],
            'another plan for the same bytes' => [Verdict::Statement, new Complaint(6.0, 6.0, 0.0, 0.0, 1.0, true, 1.0)],
            'far slower than one slow disk can make it' => [Verdict::Statement,
                new Complaint(9.0, 9.0, 0.0, 0.0, 1.0, probe: 1.0, host: 2.0)],
            'a host that is hardly slower' => [Verdict::Statement, new Complaint(1.6, 1.6, 0.0, 0.0, 1.0, probe: 1.0, host: 1.1)],
            'slower for no reason that is known' => [Verdict::Statement, new Complaint(4.0, 4.0, 0.0, 0.0, 1.0)],
            'a system that struggles, and more' => [Verdict::System, new Complaint(50.0, 50.0, 0.0, 0.0, 1.0, probe: 3.0)],
            // Of a moment alone.
            'a moment the probe was slow' => [Verdict::System, new Complaint(waited: 0.9, probe: 2.0, host: 2.0)],
            'a moment most waited' => [Verdict::Queue, new Complaint(waited: 0.5, probe: 1.9)],
            'a moment with a slow host' => [Verdict::Host, new Complaint(waited: 0.1, probe: 1.0, host: 1.2)],
            'a moment like others' => [Verdict::Nothing, new Complaint(waited: 0.49, probe: 1.99, host: 1.19)],
            'a moment nobody looked at' => [Verdict::Unknown, new Complaint()],
        ];
    }

    #[DataProvider('complaints')]
    public function test_the_one_reason_that_explains_most_is_given(Verdict $expected, Complaint $symptoms): void
    {
        self::assertSame($expected, $symptoms->verdict());
    }

    public function test_each_limit_is_where_it_is_said_to_be(): void
    {
        self::assertSame(Verdict::Nothing, (new Complaint(1.49, 1.49, probe: 1.0))->verdict());
        self::assertSame(Verdict::Statement, (new Complaint(1.5, 1.5, probe: 1.0))->verdict());
        self::assertSame(Verdict::Statement, (new Complaint(3.0, 2.0, 0.49, probe: 1.0))->verdict());
        self::assertSame(Verdict::Queue, (new Complaint(3.0, 2.0, 0.5, probe: 1.0))->verdict());
        // Half of the logarithm: nine times is explained by a probe of three times, and not by one of 2.9.
        self::assertSame(Verdict::System, (new Complaint(9.0, 1.0, 0.6, probe: 3.0))->verdict());
        self::assertSame(Verdict::Queue, (new Complaint(9.0, 1.0, 0.6, probe: 2.9))->verdict());
        self::assertSame(Verdict::Host, (new Complaint(2.99, 2.99, read: 1.0, probe: 1.0, host: 2.0))->verdict());
        self::assertSame(Verdict::Statement, (new Complaint(3.01, 3.01, read: 1.0, probe: 1.0, host: 2.0))->verdict());
    }
}
