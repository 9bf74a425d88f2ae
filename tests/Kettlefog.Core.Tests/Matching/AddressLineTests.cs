using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>One-line addresses in the formats of several countries.</summary>
public class AddressLineTests
{
    [Theory]
    [InlineData("12 Fish Street", "12 Fish Street", "", "", "")]
    [InlineData("Flat 3, 12 Fish Street", "Flat 3, 12 Fish Street", "", "", "")]
    [InlineData("12 Fish Street, Saltmarrow", "12 Fish Street", "Saltmarrow", "", "")]
    [InlineData("12 Fish Street, Saltmarrow, SW1A 1AA", "12 Fish Street", "Saltmarrow", "", "SW1A 1AA")]
    [InlineData("12 Fish Street, Saltmarrow SW1A 1AA, Great Britain", "12 Fish Street", "Saltmarrow", "", "SW1A 1AA")]
    [InlineData("500 Quay Road, Suite 5, Ternhaven, TX 77002", "500 Quay Road, Suite 5", "Ternhaven", "TX", "77002")]
    [InlineData("500 Quay Road, Ternhaven TX 77002-1234, USA", "500 Quay Road", "Ternhaven", "TX", "77002-1234")]
    [InlineData("500 Quay Road, Ternhaven, Texas 77002, USA", "500 Quay Road", "Ternhaven", "Texas", "77002")]
    [InlineData("Hafenstrasse 12, 10115 Nordhamn", "Hafenstrasse 12", "Nordhamn", "", "10115")]
    [InlineData("Hafenstrasse 12, D-10115 Nordhamn, Deutschland", "Hafenstrasse 12", "Nordhamn", "", "10115")]
    [InlineData("Kade 4, 1012 JS Zuiderplaat", "Kade 4", "Zuiderplaat", "", "1012 JS")]
    [InlineData(
        "No. 12 Fish Road, Pudong District, Shanghai, China 200120",
        "No. 12 Fish Road",
        "Shanghai",
        "",
        "200120"
    )]
    [InlineData("12 Teheran-ro, Gangnam-gu, Seoul, Korea 06130", "12 Teheran-ro", "Seoul", "", "06130")]
    [InlineData("1-1 Chiyoda, Chiyoda-ku, Tokyo 100-0001, Japan", "1-1 Chiyoda", "Tokyo", "", "100-0001")]
    [InlineData("上海市浦东新区鱼街12号", "鱼街 12", "上海", "", "")]
    [InlineData("浙江省杭州市西湖区鱼街12号", "鱼街 12", "杭州", "浙江省", "")]
    [InlineData("東京都千代田区千代田1-1", "千代田 1-1", "东京", "东京都", "")]
    [InlineData("서울특별시 강남구 테헤란로 12", "테헤란로 12", "서울", "", "")]
    [InlineData("경기도 성남시 분당구 판교로 7", "판교로 7", "성남", "경기도", "")]
    public void Parts_of_a_line(string line, string street, string town, string region, string postcode) =>
        AddressLine.Read(line).ShouldBe(new AddressLine(street, town, region, postcode));

    [Theory]
    [InlineData("12 Fish Street, Saltmarrow, SW1A 1AA", "12 Fish St, Saltmarrow", true)]
    [InlineData("12 Fish Street, Saltmarrow, SW1A 1AA, United Kingdom", "12 Fish Street, SW1A 1AA Saltmarrow", true)]
    [InlineData("500 Quay Road, Ternhaven, TX 77002", "500 Quay Rd, Ternhaven, Texas 77002, USA", true)]
    [InlineData("No. 12 Fish Road, Pudong District, Shanghai", "12 Fish Road, Pudong, Shanghai, China 200120", true)]
    [InlineData("上海市浦东新区鱼街12号", "浦东新区鱼街12号", true)]
    [InlineData("上海市浦东新区鱼街12号", "上海市浦东新区鱼街14号", false)]
    [InlineData("12 Fish Street, Saltmarrow", "12 Fish Street, Ternhaven", false)]
    [InlineData("12 Fish Street, Saltmarrow", "14 Fish Street, Saltmarrow", false)]
    [InlineData("上海市浦东新区鱼街12号", "杭州市西湖区鱼街12号", false)]
    public void Whole_addresses_agree_by_their_parts(string a, string b, bool agree)
    {
        using var finder = Finders.Over(
            Finders.TypeOf(["name", "address"], [FieldKind.OrganisationName, FieldKind.Street]),
            [
                ["Gannet", "1 Quay Lane, Nordhamn"],
                ["Kelpie", "2 Quay Lane, Oystergate"],
            ]
        );
        var words = finder.Explain(["Tern", a], ["Tern", b]).Evidence.Select(each => each.Words).ToList();
        words
            .Exists(each =>
                each.StartsWith("same address", StringComparison.Ordinal)
                || each.StartsWith("similar address", StringComparison.Ordinal)
            )
            .ShouldBe(agree, string.Join(", ", words));
    }

    [Fact]
    public void No_part_of_any_line_is_invented() =>
        Gen.String[Gen.Char["Fish,;1 2AB-\n市区省 도시구〒"], 0, 40]
            .Sample(
                line =>
                {
                    var read = AddressLine.Read(line);
                    var letters = PlainLetters.Of(line).ToUpperInvariant();
                    return new[] { read.Town, read.Region, read.Postcode }.All(part =>
                        letters.Contains(PlainLetters.Of(part).ToUpperInvariant(), StringComparison.Ordinal)
                    );
                },
                iter: 20_000
            );
}
