using Pelto.Core.Access;

namespace Pelto.Core.Tests.Access;

public sealed class AccessTests
{
    [Fact(DisplayName = "Of several roles the highest level counts; without a role there is nothing to see")]
    public void Highest_counts()
    {
        var type = Sample.OrderType();
        Assert.Equal(AccessLevel.Write, new Viewer(Guid.NewGuid(), "Both", ["guest", "desk"]).LevelAt(type));
        Assert.Equal(AccessLevel.Read, Sample.Guest.LevelAt(type));
        Assert.Equal(AccessLevel.None, new Viewer(Guid.NewGuid(), "Nobody", []).LevelAt(Sample.Catalogue().Find("customer")!));
        Assert.Equal(AccessLevel.Write, Sample.Administrator.LevelAt(type));
    }

    [Fact(DisplayName = "What is filled by itself is read by everyone and written by nobody")]
    public void Filled_fields_are_read()
    {
        var header = Sample.OrderType().Header;
        Assert.Equal(AccessLevel.Read, Sample.Administrator.LevelAt(header.Find("total")!));
        Assert.Equal(AccessLevel.Read, Sample.Desk.LevelAt(header.Find("number")!));
        Assert.Equal(AccessLevel.Write, Sample.Desk.LevelAt(header.Find("note")!));
    }
}
